/** What differs between two values of the trail, field by field. */

const asObject = (value: unknown): Record<string, unknown> =>
  value === null || value === undefined
    ? {}
    : typeof value === 'object' && !Array.isArray(value)
      ? (value as Record<string, unknown>)
      : { value };

const asText = (value: unknown): string | undefined =>
  value === null || value === undefined || value === ''
    ? undefined
    : typeof value === 'string'
      ? value
      : JSON.stringify(value);

export interface FieldDifference {
  field: string;
  before?: string;
  after?: string;
}

/** The fields that are not the same before and after, in the order in which they first stand. */
export function differingFields(before: unknown, after: unknown): FieldDifference[] {
  const [from, to] = [asObject(before), asObject(after)];
  return [...new Set([...Object.keys(from), ...Object.keys(to)])]
    .map((field) => ({ field, before: asText(from[field]), after: asText(to[field]) }))
    .filter((difference) => difference.before !== difference.after);
}

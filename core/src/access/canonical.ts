/** JSON with sorted keys, so that equal values give equal text. */
export function canonicalJson(value: unknown): string {
  const { toJSON } = (value ?? {}) as { toJSON?: () => unknown };
  if (typeof toJSON === 'function') return canonicalJson(toJSON.call(value));
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalJson(v)}`).join(',')}}`;
}

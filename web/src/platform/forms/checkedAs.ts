/**
 * Checks a form by the schema of what is sent, where that is not what is typed: days are typed and instants are sent, an
 * empty field is null. A field of the form is called as the one of the body that it becomes.
 */
import { toNestErrors } from '@hookform/resolvers';
import type { FieldErrors, FieldValues, Resolver } from 'react-hook-form';
import type { z } from 'zod';

/**
 * `bodyOf` makes of what was typed what the schema is to check; what is submitted is what it lets through. An error stands at
 * the field, or, `deep`, at the very part of it.
 */
export function checkedAs<Typed extends FieldValues, S extends z.ZodType>(
  schema: S,
  bodyOf: (typed: Typed) => z.input<S>,
  { deep = false } = {},
): Resolver<Typed, unknown, z.output<S>> {
  return async (typed, _context, options) => {
    const checked = schema.safeParse(bodyOf(typed));
    if (checked.success) return { values: checked.data as z.output<S> & FieldValues, errors: {} };
    const errors: FieldErrors = {};
    for (const { path, message } of checked.error.issues)
      errors[deep ? path.join('.') : String(path[0])] ??= { type: 'schema', message };
    return { values: {}, errors: toNestErrors<Typed>(errors, options) };
  };
}

/** What boxes of one name give a form: texts, or where one stands alone a text or nothing. */
export const ticked = (value: string[] | string | false): string[] =>
  [value].flat().filter((one): one is string => one !== false);

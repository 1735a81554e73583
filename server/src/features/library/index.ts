/** The format library. */
export { noteEvidence } from './evidence.ts';
export {
  adoptedFormats,
  currentFormats,
  insertFormat,
  insertVersion,
  seedLibrary,
  versionsOf,
  wholeLibrary,
} from './library.ts';
export { formatTable, formatVersionTable, siteFormatTable } from './tables.ts';

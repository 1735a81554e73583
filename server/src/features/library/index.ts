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
export { formatTable, siteFormatTable } from './tables.ts';

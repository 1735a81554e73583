/** Fields of data files: their places, and their bytes. */
export { bytesOfFields, fieldsIn, type Known, type ReadField } from './bytes.ts';
export {
  byteMap,
  type Content,
  type Field,
  type FieldProblem,
  fieldSchema,
  type Placed,
  placed,
  problemsOfFields,
} from './field.ts';

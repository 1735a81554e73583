/** Codec: from a read to values and back, under one format; both directions come from the one definition. */
export { type Advice, type AdviceOptions, adviceOn, shareInWords } from './advice.ts';
export { type Capacity, capacityOf } from './capacity.ts';
export { type Compiled, checkValue, compile, ownOrder, testEquations } from './compile.ts';
export { compiledOf, type Decoded, decode, type Fit } from './decode.ts';
export { character, encode, greatestOf } from './encode.ts';
export { Evaluation, evaluate } from './evaluate.ts';
export { type FitOf, fitsOf } from './fits.ts';
export { constraintsOf, isImpossible, type Shared, sharedCards, structureOf } from './structure.ts';
export type { Equation } from './testCode.ts';

/** Codec: from a read to values and back, under one format; both directions come from the one definition. */
export { arrivalOf, type Compiled, checkValue, compile, ownOrder } from './compile.ts';
export { compiledOf, type Decoded, decode, type Fit } from './decode.ts';
export { character, encode, greatestOf } from './encode.ts';
export { Evaluation, evaluate } from './evaluate.ts';
export { type FitOf, fitsOf } from './fits.ts';

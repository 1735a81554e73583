/** The family of formats that a settled prediction is proven within. */
export { type Also, Family, type FamilyInput, type Prediction, type Rival } from './family.ts';
export { Frame } from './frame.ts';

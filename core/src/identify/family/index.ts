/** The family of formats that a settled prediction is proven within. */
export { Family, type FamilyInput, familySize, type Prediction, type Rival } from './family.ts';

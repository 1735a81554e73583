/** People: the cardholders of a site, their groups by default, PINs and photographs, their personal data. */
import { add, list } from './list.ts';
import { one, update } from './person.ts';
import { erase, exported } from './personalData.ts';
import { photograph, setPhotograph } from './photograph.ts';
import { setPin } from './pin.ts';
import { rules, setRules } from './rules.ts';
import { enterSheet, reviewSheet, sheetOut } from './sheet.ts';

export { rulesOf } from './rules.ts';
export { cardholderRulesTable, photographTable, pinTable } from './tables.ts';
export const cardholderRoutes = [
  list,
  one,
  add,
  update,
  setPin,
  photograph,
  setPhotograph,
  exported,
  erase,
  rules,
  setRules,
  sheetOut,
  reviewSheet,
  enterSheet,
];

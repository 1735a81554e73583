/** Doors: controllers, readers, loads, events. */
export { setAccepted } from './accept.ts';
export { acceptedBy, acceptedLengths, decideAsWanted } from './accepted.ts';
export { LOAD } from './carrying.ts';
export { credentialFrom } from './credential.ts';
export { describeControllers } from './describe.ts';
export { eventRoutes, eventsOf, nameEvenGone } from './events.ts';
export { fillItems } from './fillItems.ts';
export { type Opens, opensOf } from './held.ts';
export { addController, controllerIds, giveUpCards, MARKING, noteCards, noteController, noteFormat } from './items.ts';
export { carryLoad } from './load.ts';
export { AT_ONCE, carryMarking, mark } from './marking.ts';
export { type DoorRow, doorsOf, notePassing, rightsTouched } from './passing.ts';
export { addReader, checkController, unlessTaken } from './readers.ts';
export { doorRoutes } from './routes.ts';
export {
  controllerFormatTable,
  controllerItemTable,
  controllerTable,
  controllerWantTable,
  doorTable,
  eventTable,
  formerDeviceTable,
  readerTable,
} from './tables.ts';
export { checkMoved, RECODING } from './underWay.ts';

/**
 * The way to a card: four calls, whatever is behind them (a simulated pad, a PC/SC reader). A card that goes away in
 * between makes them throw.
 */
export interface Transport {
  /** Powers the card up and selects it. */
  connect(): Promise<{ uid: Uint8Array; ats: Uint8Array }>;
  /** One APDU and its answer, status included. */
  transmit(apdu: Uint8Array): Promise<Uint8Array>;
  /** One frame of the card's own commands, for cards that take no APDUs. */
  transmitRaw(frame: Uint8Array): Promise<Uint8Array>;
  disconnect(): Promise<void>;
}

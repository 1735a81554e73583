/**
 * The wire between a server and a device host: a process that dials in, from wherever its devices are, and offers them.
 * A WebSocket (RFC 6455) at `/api/hosts/line` with the subprotocol `rawbits-host.1` and the host's token as RFC 6750 §2.1
 * has it; every message is one text frame of JSON. The host speaks first: who it is. The server tells it which site it
 * serves, then calls it; calls may overlap, and each is answered when it is done, in any order.
 */
import type { Decision } from '@rawbits/core/access';
import { CARD_KEY_KINDS, readerByPlanSchema } from '@rawbits/core/plan';
import { z } from 'zod';
import { deviceIdSchema, rigSetupSchema, trayCardSchema } from './rig.ts';

export const WIRE_PROTOCOL = 'rawbits-host.1';
export const WIRE_PATH = '/api/hosts/line';
/** The longest message, in bytes: a piece of a load, or a page of the log. */
export const WIRE_MOST_BYTES = 8_000_000;

const siteIdSchema = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/);
const digestSchema = z.string().regex(/^[0-9a-f]{64}$/);

export const devicesSchema = z.object({
  /** The site that the devices were set up for; null while they are set up for none. */
  site: siteIdSchema.nullable(),
  cards: z.array(trayCardSchema).max(1000),
  readers: z.array(z.object({ id: deviceIdSchema, controller: deviceIdSchema.nullable() })).max(1000),
  controllers: z.array(z.object({ id: deviceIdSchema, digest: digestSchema, size: z.number().int() })).max(1000),
  /** Where a card can be held to be encoded or read. */
  pads: z
    .array(z.object({ id: deviceIdSchema, name: z.string().min(1).max(120) }))
    .max(50)
    .default([]),
});
export type Devices = z.output<typeof devicesSchema>;

const decisionSchema = z.looseObject({
  outcome: z.enum(['opened', 'refused']),
  stoppedAt: z.string().max(40).optional(),
  reason: z.string().max(2000),
  formatId: z.string().max(40).optional(),
  credential: z.object({ id: z.string().max(40), holder: z.string().max(200).nullable() }).optional(),
}) as unknown as z.ZodType<Decision>;

/** One step of a reader that reads a chip. */
export const doorStepSchema = z.object({
  step: z.string().max(200),
  holds: z.boolean(),
  expected: z.string().max(400).optional(),
  came: z.string().max(400).optional(),
});
export type DoorStep = z.output<typeof doorStepSchema>;

/** How a reader is set up: what it reads, and the keys by which it does. */
export const readerSetUpSchema = z.strictObject({
  reads: readerByPlanSchema,
  keys: z.record(
    z.string().max(120),
    z.strictObject({
      kind: z.enum([...CARD_KEY_KINDS, 'sector']),
      hex: z.string().regex(/^([0-9A-F]{2}){6,24}$/),
      version: z.number().int().min(0).max(255),
    }),
  ),
});
export type ReaderSetUp = z.output<typeof readerSetUpSchema>;

/** One entry of a host's log: a credential was presented at a reader. */
export const logEntrySchema = z.object({
  seq: z.number().int().min(1),
  /** Names this entry alone, whatever becomes of the numbers. */
  id: z.string().regex(/^[0-9a-z-]{1,37}$/),
  at: z.iso.datetime(),
  reader: deviceIdSchema,
  controller: deviceIdSchema.nullable(),
  /** Empty where the reader did not come so far: then `chip` says where it stopped. */
  bits: z.string().regex(/^[01]{0,512}$/),
  chip: z.array(doorStepSchema).max(20).optional(),
  decision: decisionSchema.nullable(),
});
export type LogEntry = z.output<typeof logEntrySchema>;

const call = <P extends z.ZodType, A extends z.ZodType>(params: P, answers: A) => ({
  params,
  answers,
  isSecret: false,
});
/** What is asked may hold a key: it goes sealed to the host, whoever carries it. */
const secretCall = <P extends z.ZodType, A extends z.ZodType>(params: P, answers: A) => ({
  params,
  answers,
  isSecret: true,
});
const hexSchema = z
  .string()
  .max(1024)
  .regex(/^([0-9A-F]{2})*$/);
const bitsSchema = z.string().regex(/^[01]{0,1024}$/);
/** Frames to a tag in which there is no password, nor in what is heard after them. */
export const OPEN_TAG_FRAME = /^(1[01]|100000)$/;
const nothing = z.object({});
/** Of several pads of a host the one that is meant; its first without it. */
const ofPad = z.strictObject({ pad: deviceIdSchema.optional() });
const ofLoad = z.strictObject({ controller: deviceIdSchema, load: z.string().min(1).max(40) });

/** What a server asks of a host. All but `devices`, `claim` and `setUp` is refused where the host belongs to no site. */
export const wireCalls = {
  /** What there is, and what each controller holds, by its digest. */
  devices: call(nothing, devicesSchema),
  /** Gives a host that belongs to no site to one. */
  claim: call(z.strictObject({ site: siteIdSchema }), nothing),
  /** Puts the rig together anew; controllers that stay keep their memory. */
  setUp: call(z.strictObject({ site: siteIdSchema, setup: rigSetupSchema }), nothing),
  /** Holds a credential of the tray to a reader; gives the name of its entry in the log, if there is one. */
  present: call(
    z.strictObject({ card: deviceIdSchema, reader: deviceIdSchema }),
    z.object({ id: z.string().nullable(), message: z.string() }),
  ),
  /** Sets a reader up with what it is to read and its keys. */
  setReader: secretCall(z.strictObject({ reader: deviceIdSchema, setUp: readerSetUpSchema }), nothing),
  /** Begins a load of changes to what a controller holds, or tells how many pieces of this very load have come. */
  beginLoad: call(ofLoad.extend({ base: digestSchema }), z.object({ taken: z.number().int().min(0) })),
  loadPiece: call(
    ofLoad.extend({
      seq: z.number().int().min(1),
      changes: z.array(z.tuple([z.string().min(1).max(60), z.string().max(100_000).nullable()])).max(1000),
    }),
    nothing,
  ),
  commitLoad: call(ofLoad.extend({ digest: digestSchema }), nothing),
  /** What a controller holds below a prefix of places: digests by the next hex digit, or hashes by key at a place. */
  parts: call(
    z.strictObject({ controller: deviceIdSchema, prefix: z.string().regex(/^[0-9a-f]{0,3}$/) }),
    z.union([
      z.object({ digests: z.record(z.string(), digestSchema) }),
      z.object({ hashes: z.record(z.string(), digestSchema) }),
    ]),
  ),
  /** Lays credentials on the pad, in place of those that lay there: none, one, or two at once. */
  padLay: call(ofPad.extend({ cards: z.array(deviceIdSchema).max(2) }), nothing),
  /** What lies on the pad; `laid` counts how often that has changed. */
  pad: call(ofPad, z.object({ cards: z.array(deviceIdSchema).max(2), laid: z.number().int().default(0) })),
  /** Selects the one card on the pad, or the one tag where no card lies there: then `uid` is where the tag comes from. */
  padConnect: call(
    ofPad,
    z.object({
      uid: hexSchema,
      atqa: hexSchema,
      sak: z.number().int(),
      ats: hexSchema,
      isTag: z.boolean().default(false),
    }),
  ),
  /** An APDU, and its answer. What is secret of it is enciphered for the card. */
  padTransmit: call(ofPad.extend({ apdu: hexSchema }), z.object({ answer: hexSchema })),
  /**
   * The same where keys are set: under a session of the factory's key, which everybody knows, what is enciphered is no secret
   * to whoever has all of it.
   */
  padTransmitKeys: secretCall(ofPad.extend({ apdu: hexSchema }), z.object({ answer: hexSchema })),
  /** A frame of a sector card, whose authentication holds a key in the clear. */
  padTransmitRaw: secretCall(ofPad.extend({ frame: hexSchema }), z.object({ answer: hexSchema })),
  /** What a tag tells anybody: its pages, and its configuration. */
  padAskTag: call(ofPad.extend({ frame: z.string().regex(OPEN_TAG_FRAME) }), z.object({ heard: bitsSchema })),
  /** A frame to a rewritable tag, which may hold its password in the clear; and what is heard of the tag then, as bits. */
  padTransmitTag: secretCall(ofPad.extend({ frame: bitsSchema }), z.object({ heard: bitsSchema })),
  padDisconnect: call(ofPad, nothing),
  /** Tears the card away at the next command, or so many commands later. */
  padTear: call(
    ofPad.extend({ at: z.enum(['before', 'during', 'after']), after: z.number().int().min(0).max(1000).default(0) }),
    nothing,
  ),
  /**
   * The log after an entry, known by number and name; answered when there is one, or after `waitMs`. Where the log has
   * another entry under that number, or none, it is not the log that it was and comes back under a new epoch.
   */
  log: call(
    z.strictObject({
      epoch: z.string().max(40),
      seq: z.number().int().min(0),
      entry: z.string().max(40),
      waitMs: z.number().int().min(0).max(30_000),
    }),
    z.object({ epoch: z.string().min(1).max(40), entries: z.array(logEntrySchema).max(1000) }),
  ),
};
export type WireMethod = keyof typeof wireCalls;
export type WireParams<M extends WireMethod> = z.input<(typeof wireCalls)[M]['params']>;
export type WireAnswer<M extends WireMethod> = z.output<(typeof wireCalls)[M]['answers']>;

/** What a host sends. */
export const fromHostSchema = z.union([
  z.strictObject({
    hello: z.strictObject({
      kind: z.enum(['rig', 'desk']),
      version: z.string().max(40),
      /** The public half of a pair that it made for this line, a JWK as text: what is secret is sealed to it. */
      publicKey: z.string().max(400).optional(),
    }),
  }),
  z.strictObject({ answer: z.number().int(), result: z.unknown() }),
  z.strictObject({
    answer: z.number().int(),
    error: z.object({ code: z.string().max(60), message: z.string().max(2000) }),
  }),
]);
export type FromHost = z.input<typeof fromHostSchema>;

const wireMethod = z.enum(Object.keys(wireCalls) as [WireMethod, ...WireMethod[]]);

/** What a sealed call is about. */
export const aboutCall = (method: WireMethod): string => `rawbits call ${method}`;

/** What a server sends. */
export const fromServerSchema = z.union([
  z.strictObject({ serve: z.strictObject({ site: siteIdSchema.nullable() }) }),
  z.strictObject({
    call: z.number().int(),
    method: wireMethod,
    params: z.unknown(),
  }),
  /** What may hold a key: its params as JSON in a JWE to the host's key, about `aboutCall`. */
  z.strictObject({ call: z.number().int(), method: wireMethod, sealed: z.string().max(WIRE_MOST_BYTES) }),
]);
export type FromServer = z.input<typeof fromServerSchema>;

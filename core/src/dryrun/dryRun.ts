/**
 * A dry run: what a change would do to every card on file and every read kept, before it is saved. Each is put before
 * and after at every place concerned and sorted by what becomes of it. Memory does not grow with the reads: counts and
 * a fixed number of examples are all that is kept.
 */
import {
  type ControllerImage,
  type Credential,
  type Decision,
  decideBy,
  Engine,
  type Lookup,
  lookupIn,
  OPENED,
  STEPS,
  sameValues,
} from '../access/index.ts';
import type { Bits } from '../bits/index.ts';
import type { Format } from '../format/index.ts';

/** From the mildest to the gravest: a thing that differs at several places counts as the gravest of them. */
export const OUTCOMES = ['same', 'decoded differently', 'newly accepted', 'newly refused'] as const;
export type Outcome = (typeof OUTCOMES)[number];
export type Counts = Record<Outcome, number>;

/** What a place decides by, before the change or after it. */
export interface Side {
  formats: readonly Format[];
  comparesFacility: boolean;
  /** The same function before and after says that the same cards are on file. */
  onFile: Lookup;
}

export const sideOf = ({ formats, credentials, comparesFacility }: ControllerImage): Side => ({
  formats,
  comparesFacility,
  onFile: lookupIn(credentials),
});

/** A controller, or the site as a whole, before and after the change. */
export interface Place {
  id: string;
  name: string;
  before: Side;
  after: Side;
}

export interface Verdict {
  opened: boolean;
  reason: string;
  format?: string;
  values: Record<string, string>;
}

/** One card or read that the change touches, with old and new side by side. */
export interface Example {
  id: string;
  name: string;
  bits: string;
  outcome: Exclude<Outcome, 'same'>;
  place: string;
  before: Verdict;
  after: Verdict;
}

/** What one read says under one of the formats that a place would accept, and the card that it would be taken for. */
export interface Meaning {
  format: string;
  number: string;
  facility: string | null;
  card: { id: string; name: string } | null;
}

/** A card or read that says one thing today and several after the change, each in full. */
export interface Ambiguous {
  kind: 'cards' | 'reads';
  id: string;
  name: string;
  bits: string;
  place: string;
  /** In the order in which the place tries them. */
  meanings: Meaning[];
}

export interface DryRunResult {
  /** What becomes ambiguous anywhere: each card and each read once, and the first of them. */
  ambiguous: { cards: number; reads: number; examples: Ambiguous[] };
  reads: Counts;
  cards: Counts;
  /** Cards on file whose bits cannot be worked out from their format. */
  unknownCards: number;
  places: { id: string; name: string; reads: Counts; cards: Counts }[];
  readExamples: Example[];
  cardExamples: Example[];
}

export interface DryRunOptions {
  /** The instant at which cards are valid or not, in milliseconds since 1970. */
  atMs: number;
  /** How many examples of each outcome to keep, of cards and of reads. */
  examples?: number;
}

const nameOf = ({ facility, number }: Credential): string => `${facility ? `${facility}/` : ''}${number}`;

const engineOf = ({ formats, comparesFacility }: Side): Engine => new Engine(formats, comparesFacility);

const none = (): Counts => ({ same: 0, 'decoded differently': 0, 'newly accepted': 0, 'newly refused': 0 });

interface Prepared {
  place: Place;
  before: Engine;
  after: Engine;
  cardsDiffer: boolean;
  /** By length: whether the two sides can differ at all. */
  differs: Map<number, boolean>;
  reads: Counts;
  cards: Counts;
}

export class DryRun {
  private readonly prepared: Prepared[];
  private readonly reads = none();
  private readonly cards = none();
  private unknownCards = 0;
  private readonly readExamples: Example[] = [];
  private readonly cardExamples: Example[] = [];
  private readonly ambiguous = { cards: 0, reads: 0 };
  private readonly ambiguousExamples: Ambiguous[] = [];
  private readonly kept = new Map<string, number>();
  private readonly atMs: number;
  private readonly most: number;

  constructor(places: readonly Place[], { atMs, examples = 200 }: DryRunOptions) {
    this.atMs = atMs;
    this.most = examples;
    this.prepared = places.map((place) => ({
      place,
      before: engineOf(place.before),
      after: engineOf(place.after),
      cardsDiffer:
        place.before.onFile !== place.after.onFile || place.before.comparesFacility !== place.after.comparesFacility,
      differs: new Map(),
      reads: none(),
      cards: none(),
    }));
  }

  /** Works one read through, as it arrived. Gives its outcome over all places. */
  read(id: string, bits: Bits): Outcome {
    return this.work(bits, 'reads', id, '');
  }

  /**
   * Works one card on file through, by the bits that it delivers today; undefined bits are counted apart. The card is
   * the same before and after: it is what is on file about it, and how it is read, that changes.
   */
  card(id: string, name: string, bits: Bits | undefined): Outcome | undefined {
    if (bits) return this.work(bits, 'cards', id, name);
    this.unknownCards++;
    return undefined;
  }

  /** Whether the change can make any difference to what is so many bits long: all else is the same, unseen. */
  concerns(length: number): boolean {
    return this.prepared.some((prepared) => this.differs(prepared, length));
  }

  /** The numbers under which a card could be on file that decides on a read, before the change or after it. */
  numbersOf(bits: Bits): Set<string> {
    const numbers = new Set<string>();
    for (const prepared of this.prepared) {
      if (!this.differs(prepared, bits.length)) continue;
      for (const engine of [prepared.before, prepared.after])
        for (const number of engine.numbersOf(bits.words, bits.length)) numbers.add(number);
    }
    return numbers;
  }

  /** Counts so many cards or reads that the change does not concern. */
  same(kind: 'reads' | 'cards', count: number): void {
    for (const prepared of this.prepared) prepared[kind].same += count;
    this[kind].same += count;
  }

  /** Counts so many cards whose bits cannot be worked out. */
  unknown(count: number): void {
    this.unknownCards += count;
  }

  private differs(prepared: Prepared, length: number): boolean {
    let differs = prepared.differs.get(length);
    if (differs === undefined) {
      differs =
        prepared.cardsDiffer || prepared.before.formatsOfLength(length) !== prepared.after.formatsOfLength(length);
      prepared.differs.set(length, differs);
    }
    return differs;
  }

  private work(bits: Bits, kind: 'reads' | 'cards', id: string, name: string): Outcome {
    let gravest = 0;
    let ambiguous = false;
    for (const prepared of this.prepared) {
      if (this.becomesAmbiguous(prepared, bits)) {
        if (!ambiguous) this.keepAmbiguous(kind, id, name, bits, prepared);
        ambiguous = true;
      }
      const outcome = this.at(prepared, bits);
      prepared[kind][OUTCOMES[outcome]!]++;
      if (outcome > 0) this.keep(kind, id, name, bits, OUTCOMES[outcome] as Example['outcome'], prepared);
      if (outcome > gravest) gravest = outcome;
    }
    const outcome = OUTCOMES[gravest]!;
    this[kind][outcome]++;
    if (ambiguous) this.ambiguous[kind]++;
    return outcome;
  }

  /** Whether a place would cut more than one thing out of a read, and more than it does today. */
  private becomesAmbiguous(prepared: Prepared, bits: Bits): boolean {
    if (!this.differs(prepared, bits.length)) return false;
    const after = prepared.after.meanings(bits.words, bits.length).length;
    return after > 1 && after > prepared.before.meanings(bits.words, bits.length).length;
  }

  private keepAmbiguous(kind: 'reads' | 'cards', id: string, name: string, bits: Bits, prepared: Prepared): void {
    if (!this.mayKeep(`${kind} ambiguous`)) return;
    const { place, after } = prepared;
    const meanings = after.meanings(bits.words, bits.length).map((meaning): Meaning => {
      const [card] = after.cardsOf(meaning, place.after.onFile);
      const { facility, number } = meaning;
      return {
        format: meaning.format,
        number: String(number),
        facility: facility === undefined ? null : String(facility),
        card: card ? { id: card.credential.id, name: nameOf(card.credential) } : null,
      };
    });
    this.ambiguousExamples.push({ kind, id, name, bits: bits.toBinary(), place: place.name, meanings });
  }

  /** Counts an example of a kind; whether there is room for it still. */
  private mayKeep(key: string): boolean {
    const count = this.kept.get(key) ?? 0;
    if (count >= this.most) return false;
    this.kept.set(key, count + 1);
    return true;
  }

  /** The index in OUTCOMES of what becomes of a read at one place. */
  private at(prepared: Prepared, bits: Bits): number {
    if (!this.differs(prepared, bits.length)) return 0;
    const { before, after, place } = prepared;
    before.decide(bits.words, bits.length, this.atMs, place.before.onFile);
    after.decide(bits.words, bits.length, this.atMs, place.after.onFile);
    if ((before.step === OPENED) !== (after.step === OPENED)) return before.step === OPENED ? 3 : 2;
    return sameValues(before, after) ? 0 : 1;
  }

  private keep(
    kind: 'reads' | 'cards',
    id: string,
    name: string,
    bits: Bits,
    outcome: Example['outcome'],
    { place, before, after }: Prepared,
  ): void {
    if (!this.mayKeep(`${kind} ${outcome}`)) return;
    const verdict = (engine: Engine, { onFile }: Side) => verdictOf(decideBy(engine, bits, this.atMs, onFile));
    const list = kind === 'reads' ? this.readExamples : this.cardExamples;
    list.push({
      id,
      name,
      bits: bits.toBinary(),
      outcome,
      place: place.name,
      before: verdict(before, place.before),
      after: verdict(after, place.after),
    });
  }

  result(): DryRunResult {
    return {
      ambiguous: { ...this.ambiguous, examples: this.ambiguousExamples },
      reads: { ...this.reads },
      cards: { ...this.cards },
      unknownCards: this.unknownCards,
      places: this.prepared.map(({ place, reads, cards }) => ({ id: place.id, name: place.name, reads, cards })),
      readExamples: this.readExamples,
      cardExamples: this.cardExamples,
    };
  }
}

/** A decision in the words of an example. A part fit's values are no values: something in it is wrong. */
function verdictOf({ outcome, reason, formatId, values, stoppedAt }: Decision): Verdict {
  const decodes = stoppedAt === undefined || STEPS.indexOf(stoppedAt) > STEPS.indexOf('checks');
  return {
    opened: outcome === 'opened',
    reason,
    ...(decodes && formatId && { format: formatId }),
    values: decodes ? (values ?? {}) : {},
  };
}

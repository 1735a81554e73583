/** What a transaction has pending on backup, value and record files until it is committed: gone with the field. */
import type { CardFile, DataFile, RecordFile, ValueFile } from './memory.ts';
import { refuse } from './status.ts';

type Pending =
  | { kind: 'backup'; data: Uint8Array }
  | { kind: 'value'; value: number; debits: number; limitedCreditUsed: boolean }
  | { kind: 'records'; record: Uint8Array | undefined; cleared: boolean };

export class Transaction {
  private readonly pending = new Map<CardFile, Pending>();

  get isEmpty(): boolean {
    return this.pending.size === 0;
  }

  drop(): void {
    this.pending.clear();
  }

  forget(file: CardFile): void {
    this.pending.delete(file);
  }

  write(file: DataFile, offset: number, data: Uint8Array): void {
    const known = this.pending.get(file);
    const copy = known?.kind === 'backup' ? known.data : new Uint8Array(file.data);
    copy.set(data, offset);
    this.pending.set(file, { kind: 'backup', data: copy });
  }

  private valueOf(file: ValueFile) {
    const known = this.pending.get(file);
    return known?.kind === 'value'
      ? known
      : ({ kind: 'value', value: file.value, debits: 0, limitedCreditUsed: false } as const);
  }

  /** Adds to a value; refuses `boundary` past its limits. */
  credit(file: ValueFile, amount: number, limited: boolean): void {
    const now = this.valueOf(file);
    if (limited && (now.limitedCreditUsed || amount > file.limitedCredit)) refuse('boundary');
    if (now.value + amount > file.upper) refuse('boundary');
    this.pending.set(file, {
      ...now,
      value: now.value + amount,
      limitedCreditUsed: now.limitedCreditUsed || limited,
    });
  }

  debit(file: ValueFile, amount: number): void {
    const now = this.valueOf(file);
    if (now.value - amount < file.lower) refuse('boundary');
    this.pending.set(file, { ...now, value: now.value - amount, debits: now.debits + amount });
  }

  private recordsOf(file: RecordFile) {
    const known = this.pending.get(file);
    return known?.kind === 'records' ? known : ({ kind: 'records', record: undefined, cleared: false } as const);
  }

  /** Several writes before a commit fill one record. */
  writeRecord(file: RecordFile, offset: number, data: Uint8Array): void {
    const now = this.recordsOf(file);
    if (now.cleared) refuse('permission');
    if (file.kind === 'linear' && !now.record && file.records.length >= file.most) refuse('boundary');
    const record = now.record ?? new Uint8Array(file.size);
    record.set(data, offset);
    this.pending.set(file, { ...now, record });
  }

  clearRecords(file: RecordFile): void {
    this.pending.set(file, { kind: 'records', record: undefined, cleared: true });
  }

  /** Makes what is pending stand; false where nothing is. */
  commit(): boolean {
    if (this.isEmpty) return false;
    for (const [file, pending] of this.pending) {
      if (pending.kind === 'backup') (file as DataFile).data = pending.data;
      else if (pending.kind === 'value') commitValue(file as ValueFile, pending);
      else commitRecords(file as RecordFile, pending);
    }
    this.pending.clear();
    return true;
  }
}

/** Limited credit is the sum of the debits of the last commit that had any; used once. */
function commitValue(file: ValueFile, { value, debits, limitedCreditUsed }: Extract<Pending, { kind: 'value' }>): void {
  file.value = value;
  if (limitedCreditUsed) file.limitedCredit = 0;
  if (debits > 0) file.limitedCredit = debits;
}

/** A cyclic file of at most N keeps N − 1: one is where the next is written. */
function commitRecords(file: RecordFile, { record, cleared }: Extract<Pending, { kind: 'records' }>): void {
  if (cleared) file.records = [];
  if (!record) return;
  const most = file.kind === 'cyclic' ? file.most - 1 : file.most;
  file.records = [record, ...file.records].slice(0, most);
}

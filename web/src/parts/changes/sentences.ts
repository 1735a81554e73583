/** An entry of the trail as a person would write it. The entry itself stays as it was written; this is only said of it. */
import type { TrailEntry } from '@rawbits/api';

type Value = Record<string, unknown>;
type Say = (entry: TrailEntry, before: Value, after: Value) => string;

const asValue = (value: unknown): Value =>
  value !== null && typeof value === 'object' && !Array.isArray(value) ? (value as Value) : {};
const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const list = (value: unknown): string => (Array.isArray(value) && value.length > 0 ? value.join(', ') : 'nothing');
/** `controller Boat shed` without its kind. */
const named = (subject: string): string => subject.replace(/^\S+ /, '');
const counted = (n: unknown, one: string): string => `${Number(n)} ${one}${n === 1 ? '' : 's'}`;
const to = (holder: unknown): string => (text(holder) === '' ? '' : ` to ${text(holder)}`);

/** What changed of a card: its state first, as that is what the doors go by. */
function cardChanged({ subject }: TrailEntry, before: Value, after: Value): string {
  const why = text(after.reason) === '' ? '' : `: ${text(after.reason)}`;
  if (text(after.replaces) !== '') return `issued ${subject} in place of ${text(after.replaces)}`;
  if (before.state !== after.state) return `set ${subject} from ${text(before.state)} to ${text(after.state)}${why}`;
  const fields = { holderId: 'holder', validFrom: 'first day', validTo: 'last day', printed: 'print', notes: 'notes' };
  const changed = Object.entries(fields).flatMap(([field, word]) =>
    JSON.stringify(before[field]) === JSON.stringify(after[field]) ? [] : [word],
  );
  return changed.length === 0 ? `saved ${subject} as it was` : `changed the ${changed.join(' and ')} of ${subject}`;
}

const accepted = (after: unknown): unknown => (Array.isArray(after) ? after : asValue(after).formats);

/** Whether people gained and lost doors by a change, and what it broke. */
function effect(after: Value): string {
  const people = (rows: unknown, what: string): string | undefined => {
    if (!Array.isArray(rows) || rows.length === 0) return undefined;
    const n = Number(asValue(rows[0]).people) + Number(asValue(rows[0]).later ?? 0);
    return rows.length === 1
      ? `${n} ${n === 1 ? 'person' : 'people'} ${what} a door by it`
      : `people ${what} doors by it`;
  };
  const broken = Array.isArray(after.breaks) ? `broke “${list(after.breaks)}” knowingly` : undefined;
  const parts = [people(after.gains, 'gained'), people(after.losses, 'lost'), broken].filter(Boolean);
  return parts.length === 0 ? '' : `: ${parts.join(', ')}`;
}

/** How a version of a key came to be. */
const HOW: Record<string, string> = {
  made: ', made here',
  typed: ', typed in',
  components: ', to be put together from components',
};

const SAYS: Record<string, Say> = {
  'card issued': ({ subject }, _, after) => `issued ${subject}${to(after.holder)}`,
  'card entered': ({ subject }) => `put ${subject} in stock`,
  'card changed': cardChanged,
  'card corrected': ({ subject }, before) =>
    `corrected ${subject}, entered as ${text(before.facility) ? `${text(before.facility)}/` : ''}${text(before.number)}`,
  'card replaced': ({ subject }, _, after) =>
    `replaced ${subject}, ${text(after.state)}, by ${text(after.by)}${text(after.reason) && `: ${text(after.reason)}`}`,
  'sheet entered': ({ subject }, _, after) =>
    after.cards === undefined
      ? `entered the ${subject}: ${counted(after.newHolders ?? 0, 'new cardholder')}, ${text(after.changed)} changed`
      : `entered the ${subject}: ${counted(after.cards, 'card')}`,
  'filter saved': ({ subject }) => `saved the ${subject}`,
  'filter removed': ({ subject }) => `forgot the ${subject}`,
  'mark kept': ({ subject }) => `put the ${subject} on badges`,
  'mark taken away': ({ subject }) => `took the ${subject} off badges`,
  'box entered': ({ subject }, _, after) => `entered the ${subject}: ${counted(after.entered ?? 0, 'card')}`,
  'box changed': ({ subject }) => `changed what is said of the ${subject}`,
  'box taken back': ({ subject }, before) => `took the ${subject} back: ${counted(before.cards ?? 0, 'card')}`,
  'card taken back': ({ subject }) => `took ${subject} back, which had been entered wrongly`,
  'cardholder added': ({ subject }) => `added the cardholder ${named(subject)}`,
  'cardholder changed': ({ subject }) => `changed what is kept of ${named(subject)}`,
  'cardholder erased': () => 'erased a cardholder',
  'PIN set': ({ subject }) => `set a PIN for ${named(subject)}`,
  'PIN changed': ({ subject }) => `set another PIN for ${named(subject)}`,
  'PIN taken away': ({ subject }) => `took the PIN of ${named(subject)} away`,
  'photograph kept': ({ subject }) => `put a photograph of ${named(subject)} on file`,
  'photograph taken away': ({ subject }) => `took the photograph of ${named(subject)} away`,
  'rules changed': () => 'changed how cardholders are kept',
  'card expired': ({ subject }) => `saw ${subject} end: it is expired`,
  'access groups changed': ({ subject }, before, after) =>
    `put ${subject.startsWith('card ') ? subject : named(subject)} into ${list(after.groups)}${before.groups === undefined ? '' : `, before ${list(before.groups)}`}`,
  'access group added': ({ subject }, _, after) => `added the ${subject}${effect(after)}`,
  'access group changed': ({ subject }, _, after) => `changed the ${subject}${effect(after)}`,
  'access group removed': ({ subject }) => `removed the ${subject}`,
  'schedule added': ({ subject }, _, after) => `added the ${subject}${effect(after)}`,
  'schedule changed': ({ subject }, _, after) => `changed the ${subject}${effect(after)}`,
  'schedule removed': ({ subject }) => `removed the ${subject}`,
  'holidays changed': (_entry, _, after) => `changed the holidays${effect(after)}`,
  'door changed': ({ subject }, _, after) =>
    `set the ${subject} to let through ${after.byGroups ? 'whom access groups name' : 'any active card'}${effect(after)}`,
  'assertion added': ({ subject }) => `asserted “${named(subject)}”`,
  'assertion changed': ({ subject }) => `changed the assertion “${named(subject)}”`,
  'assertion removed': ({ subject }) => `withdrew the assertion “${named(subject)}”`,
  'controller added': ({ subject }) => `added the controller ${named(subject)}`,
  'reader added': ({ subject }) => `added the reader ${named(subject)}`,
  'controller loaded': ({ subject }, _, after) => {
    const formats = Array.isArray(after.formats) ? after.formats.length : 0;
    return `loaded ${named(subject)}: ${counted(formats, 'format')} and ${counted(after.cards ?? 0, 'card')} are in force`;
  },
  'load failed': ({ subject }, _, after) => `could not load ${named(subject)}: ${text(after.message)}`,
  'load stopped': ({ subject }) => `stopped a load of ${named(subject)}`,
  'load lost': ({ subject }) => `found that a load of ${named(subject)} had been lost`,
  'controller found changed': ({ subject }, _, after) =>
    `found that ${named(subject)} had been changed by hand, in ${counted(after.items ?? 0, 'item')}`,
  'accepted formats changed': ({ subject, after }) => `let ${named(subject)} accept ${list(accepted(after))}`,
  'format adopted': ({ subject }) => `took up ${subject}`,
  'format given up': ({ subject }) => `gave ${subject} up`,
  'format version changed': ({ subject }, before, after) =>
    `went from version ${before.version} of ${subject} to version ${after.version}`,
  'format added': ({ subject }) => `added ${subject} to the library`,
  'format version added': ({ subject }, _, after) =>
    `saved version ${after.version} of ${subject}: ${text(after.reason)}`,
  'formats imported': ({ subject }) => `brought ${subject} into the library`,
  'format made of a case': ({ subject }) => `made a format of ${subject}`,
  'facility code named': ({ subject }, _, after) => `named ${subject} ${text(after.name)}`.trim(),
  'facility code changed': ({ subject }, before, after) =>
    `changed ${subject} from ${text(before.code)} to ${text(after.code)}`,
  'facility code given up': ({ subject }) => `gave ${subject} up`,
  'case started': ({ subject }) => `started the ${subject}`,
  'case changed': ({ subject }) => `worked on the ${subject}`,
  'case given up': ({ subject }) => `gave the ${subject} up`,
  'operator added': ({ subject }, _, after) => `added ${subject} as ${list(after.roles)}`,
  'operator closed': ({ subject }) => `closed the account of ${named(subject)}`,
  'operator opened again': ({ subject }) => `opened the account of ${named(subject)} again`,
  'password reset': ({ subject }) => `reset the password of ${named(subject)}`,
  'password changed': () => 'changed their own password',
  'operator’s role changed': ({ subject, after }) =>
    `made ${named(subject)} ${list(Array.isArray(after) ? after : asValue(after).roles)}`,
  'second person asked for': ({ subject }) => `asked for a second person: ${subject}`,
  agreed: ({ subject }, _, after) => `agreed, as the second person, with ${text(after.askedBy)}: ${subject}`,
  refused: ({ subject }, _, after) => `refused what ${text(after.askedBy)} asked for: ${subject}`,
  'request taken back': ({ subject }) => `took back: ${subject}`,
  'token made': ({ subject }) => `made the ${subject} for scripts`,
  'token revoked': ({ subject }) => `revoked the ${subject}`,
  'rig brought in': () => 'brought the rig in',
  'rig set up': () => 'put the rig together',
  'device host added': ({ subject }) => `let ${named(subject)} dial in`,
  'device host revoked': ({ subject }) => `revoked the token of ${named(subject)}`,
  'key store made': () => 'made the key store',
  'key store unlocked': () => 'unlocked the key store',
  'key store locked': (_, __, after) => `locked the key store${after.why === 'it lay idle' ? ', as it lay idle' : ''}`,
  'key store given up': () => 'gave the key store up, with every key in it',
  'wrong passphrase': () => 'gave a wrong passphrase for the key store',
  'passphrase changed': () => 'changed the passphrase of the key store',
  'key set added': ({ subject }) => `added the ${subject}`,
  'key version added': ({ subject }, _, after) => `added ${subject}${HOW[text(after.how)] ?? ''}`,
  'key version given up': ({ subject }) => `gave up ${subject}, which waited for components`,
  'key version put in use': ({ subject, before, after }) =>
    `put version ${after} of ${subject} in use${before === null ? '' : `, in place of ${before}`}`,
  'key version destroyed': ({ subject }) => `destroyed ${subject}`,
  'key retired': ({ subject }) => `retired ${subject}`,
  'key uncovered': ({ subject }, _, after) =>
    `looked at ${subject}, with the agreement of ${text(after.agreedBy)}: ${text(after.reason)}`,
  'key put together': ({ subject }, _, after) => `put together ${subject}, with the last of ${list(after.custodians)}`,
  'component given': ({ subject }, _, after) => `gave ${text(after.component)} of ${subject}`,
  'component printed again': ({ subject }, _, after) => `looked at ${text(after.component)} of ${subject} again`,
  'second custodian asked for': ({ subject }, _, after) =>
    `asked for a second custodian: ${subject}, because: ${text(after.reason)}`,
  'keys backed up': (_, __, after) =>
    `made a backup of ${counted(after.keys, 'key')} with ${text(after.firstBy)} and ${text(after.secondBy)}`,
  'backup downloaded': () => 'downloaded a backup of the keys',
  'backup rehearsed': (_, __, after) => `rehearsed the restoring of ${counted(after.keys, 'key')}`,
  'keys restored': (_, __, after) => `restored ${counted(after.new, 'key')} from a backup`,
  'keys imported': (_, __, after) => `took ${counted(after.new, 'key')} in from a file`,
  'key handed on': ({ subject }, _, after) => `noted that ${text(after.reader ?? after.partner)} has ${subject}`,
  'key held no more': ({ subject }, before) => `noted that ${text(Object.values(before)[0])} has ${subject} no more`,
  'cards carry a key': ({ subject }, _, after) => `noted that ${counted(after.cards, 'card')} carry ${subject}`,
  'system identifier added': ({ subject, after }) => `added the ${subject}, ${text(after)}`,
  'system identifier given up': ({ subject }) => `gave the ${subject} up`,
  'site added': ({ subject }) => `added the ${subject}`,
  'site exported': () => 'exported the site',
  'site imported': ({ subject }) => `took the ${subject} in from a file`,
  'site changed': ({ subject }) => `changed the ${subject}`,
  'set up': ({ subject }) => `set Raw Bits up, with the ${subject}`,
  'signed in': (_, __, after) => `signed in${text(after.from) && ` from ${text(after.from)}`}`,
  'sign-in failed': (_, __, after) => `failed to sign in${text(after.from) && ` from ${text(after.from)}`}`,
  'translation kept': ({ subject }) => `kept the ${subject}`,
  'translation given up': ({ subject }) => `gave the ${subject} up`,
  'break in the record settled': (_, __, after) => `settled a break in this record: ${text(after.reason)}`,
};

/** What somebody did, to stand after their name; an entry of a kind that is not known is told as it is written. */
export function sentenceOf(entry: TrailEntry): string {
  const say = SAYS[entry.action];
  return say ? say(entry, asValue(entry.before), asValue(entry.after)) : `${entry.action}, ${entry.subject}`;
}

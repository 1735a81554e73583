/** A component sheet: one custodian's component, to be printed and kept apart from the others. */
import type { ComponentSheet } from '@rawbits/api';
import { PrintFoot } from '../../../parts/print/PrintFoot.tsx';
import { CHECK_WORDS, grouped, KIND_WORDS } from '../words/words.ts';

export function Sheet({ sheet, onDone }: { sheet: ComponentSheet; onDone: () => void }) {
  const rows: [string, string, boolean?][] = [
    ['Site', sheet.site],
    ['Key', `${sheet.set} / ${sheet.key}, version ${sheet.version}`],
    ['Kind', KIND_WORDS[sheet.kind]],
    ['Custodian', sheet.custodian],
    ['Component', grouped(sheet.hex), true],
    [`Its check value (${CHECK_WORDS[sheet.checkOf]})`, sheet.checkValue, true],
  ];
  return (
    <article className="grid gap-3 border-2 border-base-content p-4" aria-label="Component sheet">
      <PrintFoot />
      <h2 className="text-[1.15rem]">
        Component {sheet.part} of {sheet.of}
      </h2>
      <dl className="grid grid-cols-[12rem_1fr] gap-y-1">
        {rows.map(([name, value, mono]) => (
          <div key={name} className="contents">
            <dt className="text-ink-2">{name}</dt>
            <dd className={mono ? 'font-mono text-[1.1rem] font-bold' : ''}>{value}</dd>
          </div>
        ))}
      </dl>
      <p>
        This sheet belongs to its custodian alone. Alone it says nothing of the key; all {sheet.of} together are the
        key. Keep it sealed, apart from the others, and away from this computer.
      </p>
      <p className="mt-6 hidden grid-cols-2 gap-8 print:grid">
        <span className="border-t border-base-content pt-1">received, sealed and signed</span>
        <span className="border-t border-base-content pt-1">date</span>
      </p>
      <div className="flex gap-2 print:hidden">
        <button type="button" className="btn btn-primary" onClick={() => window.print()}>
          Print
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          I have it
        </button>
      </div>
    </article>
  );
}

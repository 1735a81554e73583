/** The finding on paper, for the customer: what, how sure, from which cards. Shown only when printed. */
import type { CaseSpecimen } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { type GroupFinding, percentOf } from '@rawbits/core/identify';
import { PrintFoot } from '../../parts/print/PrintFoot.tsx';
import { boxInWords } from '../../parts/strip/boxInWords.ts';
import { bitsInLines, settledInWords } from './columns.ts';

export function PrintedFinding({
  name,
  finding,
  specimens,
}: {
  name: string;
  finding: GroupFinding;
  specimens: CaseSpecimen[];
}) {
  return (
    <article className="hidden flex-col gap-3 print:flex" aria-label="Printed finding">
      <h1>Finding: {name}</h1>
      <PrintFoot />
      {finding.range && <p className="font-bold">{boxInWords(finding.range)}</p>}
      <p>
        {finding.summary} {settledInWords(finding)}
      </p>
      {finding.suspects.length > 0 && (
        <>
          <h2>What does not belong</h2>
          <ul className="list-disc pl-5">
            {finding.suspects.map(({ words }) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
          {finding.assuming && <p>All else is as it would be with the first of these put right.</p>}
        </>
      )}
      <h2>Layouts that fit</h2>
      <ul>
        {finding.layouts.map((l) => (
          <li key={l.layout} className="font-mono">
            {l.layout}
            {l.facility !== undefined && ` (facility code ${l.facility})`}
          </li>
        ))}
      </ul>
      <h2>What it rests on</h2>
      <ul className="list-disc pl-5">
        {finding.assumptions.map((assumption) => (
          <li key={assumption}>{assumption}</li>
        ))}
        <li>
          {finding.checks === 0
            ? 'no specimen is left over that would test these assumptions'
            : `${finding.checks} specimens beyond those needed agree with the rest`}
        </li>
      </ul>
      {finding.predictions.length > 0 && (
        <>
          <h2>Cards not read</h2>
          <table className="grid-table">
            <tbody>
              {finding.predictions.map((p) => (
                <tr key={p.printed}>
                  <td className="font-mono">{p.printed}</td>
                  <td>
                    {p.standing}
                    {p.standing === 'likely' && p.odds !== null && `, ${percentOf(p.odds)} %`}
                  </td>
                  <td className="font-mono break-all">{p.bits ?? p.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      <h2>Bit by bit</h2>
      <ul>
        {bitsInLines(finding).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {finding.settled.map(({ bit, turns }) => (
          <li key={bit}>
            Number bit n{bit} is proven to turn {turns.length === 0 ? 'no bit' : `bits ${turns.join(', ')}`}.
          </li>
        ))}
      </ul>
      <h2>From these cards</h2>
      <table className="grid-table">
        <tbody>
          {finding.rows.slice(0, 500).map((row) => {
            const specimen = specimens[row - 1];
            return (
              specimen && (
                <tr key={row}>
                  <td>{row}</td>
                  <td className="font-mono">{specimen.printed ?? 'print not readable'}</td>
                  <td className="font-mono break-all">{Bits.fromBinary(specimen.bits).toHex()}</td>
                  <td>{specimen.source}</td>
                  <td>
                    {specimen.setAside && 'set aside'}
                    {specimen.asRead && `put right; read as ${Bits.fromBinary(specimen.asRead).toHex()}`}
                  </td>
                </tr>
              )
            );
          })}
        </tbody>
      </table>
    </article>
  );
}

/** The signs of the tape, drawn by what draws the tape. */
import { Legend, Sign } from '../legend/Legend.tsx';
import type { SpanLook } from './geometry.ts';
import { Bracket, Thread } from './marks.tsx';

function Cell({ digit }: { digit: 0 | 1 }) {
  return (
    <Sign height={24}>
      <rect
        x={1}
        y={1}
        width={22}
        height={22}
        rx={2}
        className={`stroke-base-content ${digit === 1 ? 'fill-base-content' : 'fill-base-100'}`}
      />
      <text x={8} y={18} className={`font-mono ${digit === 1 ? 'fill-base-100' : 'fill-base-content'}`}>
        {digit}
      </text>
    </Sign>
  );
}

const BracketSign = ({ look }: { look: SpanLook }) => (
  <Sign>
    <Bracket spanId="" look={look} x1={0} x2={look === 'parity' ? 20 : 78} y={6} />
  </Sign>
);

const ThreadSign = ({ holds }: { holds: boolean }) => (
  <Sign>
    <Thread piece={{ threadId: '', holds, x1: 6, x2: 76, y: 8, ticks: [22, 40, 58, 76], rings: [6], foot: 18 }} />
  </Sign>
);

const SIGNS = [
  [<Cell key="1" digit={1} />, 'a 1'],
  [<Cell key="0" digit={0} />, 'a 0'],
  [<BracketSign key="f" look="facility" />, 'facility code'],
  [<BracketSign key="n" look="number" />, 'card number'],
  [<BracketSign key="i" look="issue" />, 'issue level'],
  [<BracketSign key="v" look="value" />, 'another value, with its name'],
  [<BracketSign key="x" look="fixed" />, 'fixed bits, always the same'],
  [<BracketSign key="p" look="parity" />, 'a parity bit'],
  [<BracketSign key="c" look="check" />, 'a check over several bits: XOR, CRC, LRC …'],
  [<ThreadSign key="h" holds />, 'the bits that a parity bit or check covers (ticks); it holds'],
  [<ThreadSign key="b" holds={false} />, 'the same, broken by a cross: it fails'],
  [<BracketSign key="w" look="found" />, 'bits that hold the print, where no format is chosen'],
] as const;

export const TapeLegend = () => <Legend of="tape" signs={SIGNS} />;

/** The signs over and under the stack of a case. */
import { Legend, Sign } from '../../parts/legend/Legend.tsx';
import { MARK_SIGNS } from './columns.ts';
import { LOOK } from './Verdicts.tsx';

const Line = ({ standing }: { standing: keyof typeof LOOK }) => (
  <Sign>
    <line
      x1={4}
      x2={76}
      y1={10}
      y2={10}
      className={LOOK[standing].className}
      strokeWidth={LOOK[standing].strokeWidth}
      strokeDasharray={LOOK[standing].dash}
    />
  </Sign>
);

const SIGNS = [
  [MARK_SIGNS['never changes'], 'this bit is the same on all cards of the case'],
  [MARK_SIGNS.changes, 'this bit changes from card to card'],
  [MARK_SIGNS['follows from others'], 'this bit follows from others: it is their sum'],
  [<Line key="p" standing="proven" />, 'below: proven what turns this bit'],
  [<Line key="s" standing="presumed" />, 'below: presumed, by the layouts that agree'],
  [<Line key="o" standing="open" />, 'below: open'],
] as const;

export const StackLegend = () => <Legend of="stack" signs={SIGNS} />;

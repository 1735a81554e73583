/** The signs of the strip of a box. */
import { Legend, Sign } from '../legend/Legend.tsx';
import { Hatch, LOOKS } from './looks.tsx';

const HATCH = 'strip-legend-hatch';

const Cell = ({ standing, isRead }: { standing: keyof typeof LOOKS; isRead?: boolean }) => (
  <Sign height={24}>
    <defs>
      <Hatch id={HATCH} />
    </defs>
    <rect x={0.5} y={7} width={20} height={16} {...LOOKS[standing](HATCH)} />
    {isRead && <line x1={10.5} x2={10.5} y1={0} y2={6} className="stroke-base-content" strokeWidth={2} />}
  </Sign>
);

const SIGNS = [
  [<Cell key="p" standing="proven" />, 'proven: the bits follow from the cards read, by algebra'],
  [
    <Cell key="s" standing="settled" />,
    'settled: every format of the stated family that agrees with the cards says so',
  ],
  [<Cell key="l" standing="likely" />, 'likely: most of what agrees says so, with its odds'],
  [<Cell key="o" standing="open" />, 'open: these cards do not tell'],
  [<Cell key="r" standing="proven" isRead />, 'with a tick: this card was read'],
] as const;

export const StripLegend = () => <Legend of="strip" signs={SIGNS} />;

/** The signs of a line of numbers. */
import { Legend, Sign } from '../legend/Legend.tsx';
import { FATE_LOOKS, LineHatch } from './looks.tsx';

const HATCH = 'line-legend-hatch';

const Piece = ({ fate }: { fate: keyof typeof FATE_LOOKS }) => (
  <Sign height={24}>
    <defs>
      <LineHatch id={HATCH} />
    </defs>
    <rect x={1} y={3} width={22} height={20} {...FATE_LOOKS[fate](HATCH)} />
  </Sign>
);

const SIGNS = [
  [
    <Sign key="b" height={24}>
      <rect x={0.5} y={2.5} width={70} height={19} fill="var(--color-base-200)" className="stroke-base-content" />
    </Sign>,
    'a box, over the numbers on its label; in lanes where boxes overlap',
  ],
  [<Piece key="h" fate="held" />, 'issued or active; as high as the share of these numbers that are'],
  [<Piece key="s" fate="in stock" />, 'in stock: opens nothing'],
  [<Piece key="o" fate="out" />, 'suspended, lost, expired or withdrawn'],
  [
    <Sign key="r" height={14}>
      <path d="M2 2 v6 h60 v-6" fill="none" className="stroke-ink-2" strokeDasharray="2 2" />
    </Sign>,
    'numbers that are reserved',
  ],
] as const;

export const NumberLegend = () => <Legend of="numbers" signs={SIGNS} />;

/** The signs of the byte map. */
import { Legend, Sign } from '../legend/Legend.tsx';

const Byte = ({ className, dash, over }: { className: string; dash?: string; over?: boolean }) => (
  <Sign height={22}>
    <rect x={1} y={1} width={26} height={20} className={className} strokeDasharray={dash} />
    {over && <rect x={1} y={1} width={26} height={20} fill="url(#byte-over)" />}
  </Sign>
);

const SIGNS = [
  [<Byte key="f" className="fill-base-100 stroke-ink-2" />, 'a byte of a field; the bracket below says of which'],
  [<Byte key="e" className="fill-base-200 stroke-base-300" dash="2 3" />, 'a byte of the file that no field takes'],
  [<Byte key="o" className="fill-base-100 stroke-signal" over />, 'a byte of a field past the end of the file'],
  ['··', 'a byte whose value is not known before a card is encoded'],
] as const;

export const ByteLegend = () => <Legend of="byte map" signs={SIGNS} />;

/** The signs of the floor plan. */
import { Legend, Sign } from '../legend/Legend.tsx';

/** The same patterns that light the rooms: they stand in the plan itself. */
const Room = ({ fill }: { fill?: string }) => (
  <Sign height={24}>
    <rect x={1} y={1} width={40} height={22} className="fill-base-200 stroke-ink-2" />
    {fill && <rect x={1} y={1} width={40} height={22} fill={fill} />}
  </Sign>
);

const SIGNS = [
  [
    <Sign key="h" height={24}>
      <rect x={1} y={1} width={60} height={22} className="fill-base-100 stroke-base-content" strokeWidth={2} />
    </Sign>,
    'an application: a house on the ground of the chip, as large as its bytes',
  ],
  [<Room key="r" />, 'a file: a room of it, its doors named with the key that opens them'],
  [<span key="o">open</span>, 'a door that anybody opens'],
  [<span key="w">–</span>, 'a door that nobody ever opens'],
  [<Room key="l" fill="url(#lit-read)" />, 'these keys read it'],
  [<Room key="a" fill="url(#lit-alter)" />, 'these keys change or destroy what is in it'],
] as const;

export const FloorLegend = () => <Legend of="floor plan" signs={SIGNS} />;

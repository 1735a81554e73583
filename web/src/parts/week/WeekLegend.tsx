/** The signs of a week. */
import { Legend, Sign } from '../legend/Legend.tsx';
import { bandLook, Textures } from './looks.tsx';

const ID = 'week-legend';

const SIGNS = [
  [
    <Sign key="b" height={24}>
      <defs>
        <Textures id={ID} />
      </defs>
      <rect x={1} y={1} width={60} height={9} {...bandLook(ID, 'full')} />
      <rect x={1} y={13} width={60} height={9} {...bandLook(ID, 'rising')} />
    </Sign>,
    'when it holds; a lane and a texture for each band, in the order of the list',
  ],
  [
    <Sign key="t" height={24}>
      <rect x={1} y={1} width={30} height={22} fill={`url(#${ID}-twice)`} className="stroke-signal" />
    </Sign>,
    'an hour that the clocks show twice: what holds in it holds twice',
  ],
  [
    <Sign key="n" height={24}>
      <g className="stroke-signal">
        <rect x={1} y={1} width={30} height={22} className="fill-base-100" />
        <path d="M1 1 l30 22 M31 1 l-30 22" />
      </g>
    </Sign>,
    'an hour that the clocks leave out: nothing holds in it',
  ],
  [
    <Sign key="m" height={24}>
      <line x1={15} x2={15} y1={1} y2={23} className="stroke-signal" strokeWidth={2} />
    </Sign>,
    'the moment that is asked about',
  ],
] as const;

export const WeekLegend = () => <Legend of="week" signs={SIGNS} />;

/** A band’s own sign, as it stands before its name in a list. */
export function BandSign({ band, texture }: { band: string; texture: Parameters<typeof bandLook>[1] }) {
  const id = `band-${band}`;
  return (
    <svg width={26} height={11} className="mr-1.5 inline-block" aria-hidden="true">
      <defs>
        <Textures id={id} />
      </defs>
      <rect x={0.5} y={0.5} width={25} height={10} {...bandLook(id, texture)} />
    </svg>
  );
}

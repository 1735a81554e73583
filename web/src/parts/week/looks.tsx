/** How bands look: by texture first. */
import type { Texture } from './geometry.ts';

/** The textures as patterns, under an id of their drawing. */
export function Textures({ id }: { id: string }) {
  const line = { stroke: 'var(--color-primary)', strokeWidth: 2 };
  return (
    <>
      <pattern id={`${id}-rising`} width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1={0} y1={0} x2={0} y2={6} {...line} />
      </pattern>
      <pattern id={`${id}-falling`} width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
        <line x1={0} y1={0} x2={0} y2={6} {...line} />
      </pattern>
      <pattern id={`${id}-dots`} width={5} height={5} patternUnits="userSpaceOnUse">
        <circle cx={2.5} cy={2.5} r={1.4} fill="var(--color-primary)" />
      </pattern>
      <pattern id={`${id}-level`} width={5} height={4} patternUnits="userSpaceOnUse">
        <line x1={0} y1={2} x2={5} y2={2} stroke="var(--color-primary)" strokeWidth={1.5} />
      </pattern>
      <pattern id={`${id}-twice`} width={4} height={4} patternUnits="userSpaceOnUse">
        <line x1={0} y1={1} x2={4} y2={1} stroke="var(--color-warning)" strokeWidth={1} />
      </pattern>
    </>
  );
}

export const bandLook = (id: string, texture: Texture) => ({
  fill: texture === 'full' ? 'var(--color-primary)' : `url(#${id}-${texture})`,
  stroke: 'var(--color-primary)',
});

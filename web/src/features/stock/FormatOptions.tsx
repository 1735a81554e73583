/** Formats to choose from, by their names. */
import type { SiteFormat } from '@rawbits/api';

export const FormatOptions = ({ formats }: { formats: readonly SiteFormat[] }) =>
  formats.map(({ format }) => (
    <option key={format.id} value={format.id}>
      {format.name}
    </option>
  ));

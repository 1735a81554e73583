/** A case with what a suspect says put right; what was read stays with the specimen. */
import type { CaseSpecimen } from '@rawbits/api';
import type { Suspect } from '@rawbits/core/identify';

type Mend = NonNullable<Suspect['mend']>[number];

/** The specimens with a mend, in their order; those that it does not name are the same. */
export function mendSpecimens(all: readonly CaseSpecimen[], mend: readonly Mend[]): CaseSpecimen[] {
  const by = new Map(mend.map((one) => [one.row, one]));
  return all.map((specimen, i) => {
    const one = by.get(i + 1);
    return one ? mended(specimen, one) : specimen;
  });
}

function mended(specimen: CaseSpecimen, { printed, print = 0, bits, group, aside }: Mend): CaseSpecimen {
  const next = { ...specimen };
  if (printed !== undefined && print === 0) next.printed = printed;
  if (printed !== undefined && print > 0)
    next.prints = (specimen.prints ?? []).map((one, i) => (i === print - 1 ? printed : one));
  if (bits !== undefined) {
    next.asRead = specimen.asRead ?? specimen.bits;
    next.bits = bits;
  }
  if (group !== undefined) next.group = group;
  if (aside) next.setAside = true;
  return next;
}

/** What the button says that puts it right. */
export function mendInWords({ kind, mend = [] }: Suspect): string {
  const [one] = mend;
  if (one?.aside) return 'set aside until it is read again';
  switch (kind) {
    case 'swapped pair':
      return 'exchange the prints';
    case 'mistyped print':
      return mend.length === 1 ? `the print is ${one!.printed}` : 'take the prints from the bits';
    case 'misread bit':
      return 'turn the bit back';
    case 'inverted read':
      return 'invert back';
    case 'lost bit':
      return 'put the bit in';
    case 'lost zeros':
      return 'put the zeros in';
    default:
      return mend.length === 1 ? 'put it in a group of its own' : 'put them in a group of their own';
  }
}

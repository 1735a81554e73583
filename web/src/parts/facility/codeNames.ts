/** What facility codes are called at the site, and which of their numbers are reserved. */
import type { FacilityCode } from '@rawbits/api';
import { useMemo } from 'react';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { useSite } from '../../platform/site/useSite.ts';

const NONE: FacilityCode[] = [];

/** The code as it is named for this format, or for any that carries one. */
export const namedCode = (
  codes: readonly FacilityCode[],
  code: string | null | undefined,
  format: string | undefined,
): FacilityCode | undefined =>
  codes.find((known) => known.code === code && known.formatId === format) ??
  codes.find((known) => known.code === code && known.formatId === null);

/** What a number is reserved for, where it is; an empty note where nobody said for what. */
export function reservedFor(code: FacilityCode | undefined, number: string | undefined): string | undefined {
  if (!code || !number || !/^\d+$/.test(number)) return undefined;
  const value = BigInt(number);
  const range = code.reserved.find(({ from, to }) => BigInt(from) <= value && value <= BigInt(to));
  return range && (range.note || `${range.from}-${range.to}`);
}

/** Finds the named code of the site for a code and a format. */
export function useCodes(): (code: string | null | undefined, format: string | undefined) => FacilityCode | undefined {
  const { id } = useSite();
  const { data: codes = NONE } = useFacilityCodesQuery(id);
  return useMemo(() => (code, format) => namedCode(codes, code, format), [codes]);
}

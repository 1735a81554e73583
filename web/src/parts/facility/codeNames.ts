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

/**
 * A sentence of the server with the names of its facility codes behind them. It does not say under which format the code
 * was cut out: a code with several names is left as it stands.
 */
export function withCodeNames(codes: readonly FacilityCode[], sentence: string): string {
  return sentence.replace(/(facility code|the card says) (\d+)/g, (words, _, code: string) => {
    const names = new Set(codes.filter((known) => known.code === code).map(({ name }) => name));
    return names.size === 1 ? `${words} (${[...names][0]})` : words;
  });
}

export function useCodeWords(): (sentence: string) => string {
  const { id } = useSite();
  const { data: codes = NONE } = useFacilityCodesQuery(id);
  return useMemo(() => (sentence) => withCodeNames(codes, sentence), [codes]);
}

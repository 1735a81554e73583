/** The reads that came in since a part of the screen was opened. */
import { useEffect, useRef, useState } from 'react';
import { useAppSelector } from '../../platform/state/hooks.ts';

/** Newest first; each string of bits once. */
export function useReadsSince(): string[] {
  const latest = useAppSelector(({ read }) => read.latest);
  const before = useRef(latest && `${latest.at} ${latest.bits}`);
  const [reads, setReads] = useState<string[]>([]);
  useEffect(() => {
    if (!latest || before.current === `${latest.at} ${latest.bits}`) return;
    before.current = `${latest.at} ${latest.bits}`;
    setReads((known) => [latest.bits, ...known.filter((bits) => bits !== latest.bits)]);
  }, [latest]);
  return reads;
}

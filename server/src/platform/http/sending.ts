/**
 * Sending more than fits into one answer, at the pace of whoever reads it. Every wait ends with the connection, and with a
 * time: what was held meanwhile is somebody else's, too.
 */
import type { Response } from 'express';

/** Whoever takes nothing for so long is taken to be gone. */
const STALLED_MS = 30_000;
/** So long one answer may take in all. */
const MOST_MS = 30 * 60_000;
/** Sent so many characters at once. */
const CHUNK = 64_000;

interface Limits {
  stalledMs?: number;
  mostMs?: number;
}

/**
 * Sends lines as they come, each with a line feed after it, and ends the answer. False where whoever asked has gone, or was too
 * slow: then it is broken off, so that it is known not to be whole, and no further line is asked for.
 */
export async function sendLines(
  response: Response,
  lines: AsyncIterable<string>,
  { stalledMs = STALLED_MS, mostMs = MOST_MS }: Limits = {},
): Promise<boolean> {
  const until = performance.now() + mostMs;
  let text = '';
  for await (const line of lines) {
    text += `${line}\n`;
    if (text.length < CHUNK) continue;
    if (!isThere(response) || performance.now() > until) return brokenOff(response);
    if (!response.write(text) && !(await drained(response, stalledMs))) return brokenOff(response);
    text = '';
  }
  if (!isThere(response)) return brokenOff(response);
  response.end(text);
  return true;
}

const isThere = (response: Response): boolean => !response.destroyed && !response.closed && response.writable;

function brokenOff(response: Response): false {
  response.destroy();
  return false;
}

/** Whether what was written was taken within a time, by somebody who is still there. */
function drained(response: Response, withinMs: number): Promise<boolean> {
  // It may have gone before anybody listened: then no event tells.
  if (!isThere(response)) return Promise.resolve(false);
  return new Promise((resolve) => {
    const done = (whole: boolean) => () => {
      clearTimeout(timer);
      response.off('drain', onDrain);
      response.off('close', onClose);
      resolve(whole);
    };
    const [onDrain, onClose] = [done(true), done(false)];
    const timer = setTimeout(onClose, withinMs);
    response.once('drain', onDrain);
    response.once('close', onClose);
  });
}

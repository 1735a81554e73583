/** Sending a site's file: read as a stream and sent in pieces, so that its size does not matter. */
import { type ImportedSite, LINES_A_PIECE, type SiteImport } from '@rawbits/api';

/** Lines of a file, with how many of its bytes were read when each was. */
export async function* linesOf(file: Blob): AsyncGenerator<{ line: string; read: number }> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  const reader = file.stream().getReader();
  let [rest, read] = ['', 0];
  for (;;) {
    const { value, done } = await reader.read();
    read += value?.byteLength ?? 0;
    const lines = (rest + (done ? decoder.decode() : decoder.decode(value, { stream: true }))).split('\n');
    rest = done ? '' : lines.pop()!;
    for (const line of lines) if (line.trim() !== '') yield { line: line.replace(/\r$/, ''), read };
    if (done) return;
  }
}

/** A piece holds at most so many characters, besides at most `LINES_A_PIECE` lines: below what the server takes at once. */
const CHARACTERS_A_PIECE = 2_000_000;

export interface Piece {
  piece: number;
  lines: string[];
  read: number;
}

export async function* piecesOf(file: Blob): AsyncGenerator<Piece> {
  let [piece, characters]: [Piece, number] = [{ piece: 1, lines: [], read: 0 }, 0];
  for await (const { line, read } of linesOf(file)) {
    const full = piece.lines.length === LINES_A_PIECE || characters + line.length > CHARACTERS_A_PIECE;
    if (full && piece.lines.length > 0) {
      yield piece;
      [piece, characters] = [{ piece: piece.piece + 1, lines: [], read }, 0];
    }
    piece.lines.push(line);
    piece.read = read;
    characters += line.length;
  }
  if (piece.lines.length > 0) yield piece;
}

/** What the site is called in its own file, as a suggestion; undefined where it is no such file. */
export async function headerOf(file: Blob): Promise<{ name: string; shortName: string } | undefined> {
  try {
    for await (const { line } of linesOf(file)) {
      const { kind, name, shortName } = JSON.parse(line) as Record<string, unknown>;
      return kind === 'site' ? { name: String(name), shortName: String(shortName) } : undefined;
    }
  } catch {
    // The server says what is wrong with it.
  }
  return undefined;
}

export interface Sending {
  begin(): Promise<SiteImport>;
  send(id: string, piece: Piece): Promise<unknown>;
  finish(id: string): Promise<ImportedSite>;
  giveUp(id: string): Promise<unknown>;
}

/**
 * Sends a file from its beginning to its end; `told` hears how many of its bytes are through. Throws what the server
 * refuses, after giving the import up.
 */
export async function sendFile(file: Blob, { begin, send, finish, giveUp }: Sending, told: (bytes: number) => void) {
  const { id } = await begin();
  try {
    for await (const piece of piecesOf(file)) {
      await send(id, piece);
      told(piece.read);
    }
    return await finish(id);
  } catch (error) {
    await giveUp(id).catch(() => {});
    throw error;
  }
}

/** A cursor over one line of text, with columns for its errors. The layout line's parser reads through it. */
import { fail } from '../failure/index.ts';

export class Scanner {
  private at = 0;

  constructor(
    private readonly text: string,
    private readonly offset = 0,
  ) {}

  /** 1-based column of the next character that is not white space. */
  get column(): number {
    this.skip();
    return this.offset + this.at + 1;
  }

  get done(): boolean {
    this.skip();
    return this.at >= this.text.length;
  }

  private skip(): void {
    while (/\s/.test(this.text[this.at] ?? '')) this.at++;
  }

  /** Takes what the pattern (anchored, sticky) matches here, or nothing. */
  take(pattern: RegExp): string | undefined {
    this.skip();
    const sticky = new RegExp(pattern.source, 'y');
    sticky.lastIndex = this.at;
    const match = sticky.exec(this.text);
    if (!match || match[0] === '') return undefined;
    this.at += match[0].length;
    return match[0];
  }

  /** Takes what the pattern matches here, or throws `layout-syntax` naming what was expected. */
  need(pattern: RegExp, expected: string): string {
    const column = this.column;
    return (
      this.take(pattern) ?? fail('layout-syntax', `Expected ${expected}, found ${this.found()}.`, { column }, undefined)
    );
  }

  /** What stands here, quoted for a message. */
  found(): string {
    this.skip();
    const rest = this.text.slice(this.at);
    return rest === '' ? 'the end' : `"${/^\S+/.exec(rest)![0].slice(0, 20)}"`;
  }
}

/** Cuts a text at every `|` outside a JSON string; each part with the 0-based offset at which it begins. */
export function splitAtBars(text: string): { text: string; offset: number }[] {
  const parts: { text: string; offset: number }[] = [];
  let from = 0;
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    if (quoted && text[i] === '\\') i++;
    else if (text[i] === '"') quoted = !quoted;
    else if (text[i] === '|' && !quoted) {
      parts.push({ text: text.slice(from, i), offset: from });
      from = i + 1;
    }
  }
  parts.push({ text: text.slice(from), offset: from });
  return parts;
}

/** The command `rawbits`: JSON lines in on standard input, one JSON line out for each. */
import { createInterface } from 'node:readline';
import { commands } from './commands.ts';
import { HELP } from './help.ts';
import { answer } from './lines.ts';

async function main(args: string[]): Promise<number> {
  const [name, ...rest] = args;
  if (name === undefined || name === '--help' || name === '-h' || name === 'help' || rest.includes('--help')) {
    process.stdout.write(HELP);
    return name === undefined ? 2 : 0;
  }
  const command = commands[name];
  if (!command || rest.length > 0) {
    process.stderr.write(
      command
        ? `rawbits ${name} takes no arguments.\n`
        : `rawbits: there is no command "${name}"; try rawbits --help.\n`,
    );
    return 2;
  }
  const say = command();
  let row = 0;
  for await (const line of createInterface({ input: process.stdin, crlfDelay: Number.POSITIVE_INFINITY })) {
    row++;
    if (!process.stdout.write(`${await answer(say, line, row)}\n`))
      await new Promise((resolve) => process.stdout.once('drain', resolve));
  }
  return 0;
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));
process.exitCode = await main(process.argv.slice(2));

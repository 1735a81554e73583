/** The command `rawbits`: JSON lines in on standard input, one JSON line out for each. */
import { createInterface } from 'node:readline';
import packageJson from '../package.json' with { type: 'json' };
import { commands } from './commands.ts';
import { HELP } from './help.ts';
import { answer } from './lines.ts';

async function main(args: string[]): Promise<number> {
  const isStrict = args.includes('--strict');
  const [name, ...rest] = args.filter((one) => one !== '--strict');
  if (name === '--help' || name === '-h' || name === 'help' || rest.includes('--help')) {
    process.stdout.write(HELP);
    return 0;
  }
  if (name === '--version') {
    process.stdout.write(`rawbits ${packageJson.version}\n`);
    return 0;
  }
  const command = name === undefined ? undefined : commands[name];
  if (!command || rest.length > 0) {
    process.stderr.write(
      name === undefined
        ? HELP
        : command
          ? `rawbits ${name} takes no arguments but --strict.\n`
          : `rawbits: there is no command "${name}"; try rawbits --help.\n`,
    );
    return 2;
  }
  const say = command();
  let [row, failed] = [0, 0];
  for await (const line of createInterface({ input: process.stdin, crlfDelay: Number.POSITIVE_INFINITY })) {
    row++;
    const told = await answer(say, row === 1 ? line.replace(/^\uFEFF/, '') : line, row);
    if (told.isFailure) failed++;
    if (!process.stdout.write(`${told.text}\n`)) await new Promise((resolve) => process.stdout.once('drain', resolve));
  }
  return isStrict && failed > 0 ? 1 : 0;
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));
process.exitCode = await main(process.argv.slice(2));

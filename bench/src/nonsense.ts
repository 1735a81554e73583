/**
 * Ten million inputs that mean nothing (`peers/src/nonsense.ts`): none may throw anything but a refusal, and none may take
 * long. Tells how many a second each parser takes, and the slowest single one.
 *
 *     node bin/lib/build.mjs bench-nonsense && node dist/bench-nonsense.mjs [inputs]
 */
import { inputs, isRefusal, PARSERS } from '../../peers/src/nonsense.ts';
import { randomSource } from './random.ts';

const all = Number(process.argv[2] ?? 10_000_000);
const input = inputs(randomSource(20_261_126));

const each = Math.ceil(all / Object.keys(PARSERS).length);
for (const [name, parse] of Object.entries(PARSERS)) {
  let slowest = 0;
  let refused = 0;
  const began = performance.now();
  for (let i = 0; i < each; i++) {
    const bytes = input();
    const at = performance.now();
    try {
      parse(bytes, i);
    } catch (error) {
      if (!isRefusal(error)) throw error;
      refused++;
    }
    slowest = Math.max(slowest, performance.now() - at);
  }
  const seconds = (performance.now() - began) / 1000;
  console.log(
    `${name}: ${each} inputs in ${seconds.toFixed(1)} s, ${Math.round(each / seconds)} a second, ${refused} refused by throwing, the slowest ${slowest.toFixed(1)} ms`,
  );
}

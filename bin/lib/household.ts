/** Programs that are started one after the other and ended together, in turn. */
import type { Supervised } from './supervise.ts';

/** What has been started, to be ended in turn; one that is being started when the end comes is ended, too. */
export class Household {
  private readonly stops: (() => Promise<void> | void)[] = [];
  private readonly programs: Supervised[] = [];
  private ending?: Promise<void>;

  get stopping(): boolean {
    return this.ending !== undefined;
  }

  add(stop: () => Promise<void> | void): void {
    this.stops.push(stop);
  }

  /** Starts a program under supervision; does nothing more once all is being ended. */
  async start(program: Supervised, begin: () => Promise<void> = () => program.begin()): Promise<void> {
    if (this.stopping) throw new Stopped();
    this.programs.push(program);
    const begun = begin();
    this.add(async () => {
      await begun.catch(() => {});
      await program.stop();
    });
    await begun;
    if (this.stopping) throw new Stopped();
  }

  /** Ends all of it, the last that was started first. */
  stop(): Promise<void> {
    this.ending ??= (async () => {
      for (const program of this.programs) program.expectEnd();
      for (const stop of this.stops.reverse()) await Promise.resolve(stop()).catch(() => {});
    })();
    return this.ending;
  }
}

/** Thrown where a start goes no further because everything is being ended. */
export class Stopped extends Error {}

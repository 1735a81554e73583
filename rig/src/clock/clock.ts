/** The time of the rig: the machine's, or one that a test sets. */

export interface Clock {
  /** Milliseconds since 1970. */
  now(): number;
  /** Settles once so much time has gone by. */
  after(ms: number): Promise<void>;
  /** Does something at an instant, at once where that has gone by; the function that it gives calls it off. */
  at(instantMs: number, act: () => void): () => void;
}

export const machineClock: Clock = {
  now: () => Date.now(),
  after: (ms) => new Promise((resolve) => setTimeout(resolve, ms)),
  at: (instantMs, act) => {
    const timer = setTimeout(act, Math.max(0, instantMs - Date.now()));
    timer.unref();
    return () => clearTimeout(timer);
  },
};

/** A clock that stands until it is moved on; what falls due then happens in its order. */
export class SetClock implements Clock {
  private readonly due: { at: number; act: () => void }[] = [];

  constructor(private current = 0) {}

  now(): number {
    return this.current;
  }

  after(ms: number): Promise<void> {
    return new Promise((resolve) => this.at(this.current + ms, resolve));
  }

  at(instantMs: number, act: () => void): () => void {
    const entry = { at: instantMs, act };
    this.due.push(entry);
    this.due.sort((a, b) => a.at - b.at);
    return () => {
      const place = this.due.indexOf(entry);
      if (place >= 0) this.due.splice(place, 1);
    };
  }

  /** Moves it on; what falls due on the way sees the time at which it does. */
  pass(ms: number): void {
    const until = this.current + ms;
    while (this.due[0] && this.due[0].at <= until) {
      const { at, act } = this.due.shift()!;
      this.current = Math.max(this.current, at);
      act();
    }
    this.current = until;
  }
}

/** The machine's clock, set ahead or back: it goes on by itself. */
export class ShiftedClock implements Clock {
  /** `ahead`: by how many milliseconds, asked whenever the time is. */
  constructor(private ahead: () => number = () => 0) {}

  now(): number {
    return Date.now() + this.ahead();
  }

  after(ms: number): Promise<void> {
    return machineClock.after(ms);
  }

  at(instantMs: number, act: () => void): () => void {
    return machineClock.at(instantMs - this.ahead(), act);
  }

  /** Sets it to an instant. */
  set(instantMs: number): void {
    const aheadMs = instantMs - Date.now();
    this.ahead = () => aheadMs;
  }
}

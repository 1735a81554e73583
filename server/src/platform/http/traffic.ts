/** Requests under way, so that a server that is told to stop can let them finish first. */
export class Traffic {
  private running = 0;
  private waiting: (() => void)[] = [];
  /** Set once the server stops: answers then tell their connection to close. */
  stopping = false;

  begin(): () => void {
    this.running++;
    let ended = false;
    return () => {
      if (ended) return;
      ended = true;
      if (--this.running > 0) return;
      for (const go of this.waiting.splice(0)) go();
    };
  }

  /** Resolves when no request is under way, or after `withinMs`; says whether all had finished. */
  async idle(withinMs: number): Promise<boolean> {
    if (this.running === 0) return true;
    await new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, withinMs);
      this.waiting.push(() => {
        clearTimeout(timer);
        resolve();
      });
    });
    return this.running === 0;
  }
}

/**
 * The bus: devices by name, wired to one another, on one clock. What one sends on comes in at those that it is wired to,
 * in order, until nothing is on the way any more; a device that wants to be woken later is.
 */
import type { Step } from '@rawbits/core/line';
import type { Clock } from '../clock/clock.ts';

interface Placed {
  step: Step<unknown, unknown, unknown>;
  state: unknown;
  to: readonly string[];
  callOff?: () => void;
}

/** Sees whatever a device sends on. */
export type Watch = (device: string, output: unknown, nowMs: number) => void;

export class Bus {
  private readonly devices = new Map<string, Placed>();

  constructor(
    private readonly clock: Clock,
    private readonly watch: Watch,
  ) {}

  /** Puts a device on the bus, wired to others; one of this name that was there is taken off. */
  place<S, I, O>(name: string, step: Step<S, I, O>, state: S, to: readonly string[] = []): void {
    this.remove(name);
    this.devices.set(name, { step: step as Placed['step'], state, to });
  }

  remove(name: string): void {
    this.devices.get(name)?.callOff?.();
    this.devices.delete(name);
  }

  has(name: string): boolean {
    return this.devices.has(name);
  }

  stateOf<S>(name: string): S | undefined {
    return this.devices.get(name)?.state as S | undefined;
  }

  /** Lets something come in at a device and all that follows from it happen. */
  send(name: string, input: unknown): void {
    const underWay: [string, unknown][] = [[name, input]];
    for (let next = underWay.shift(); next; next = underWay.shift())
      for (const output of this.run(...next)) for (const to of output.to) underWay.push([to, output.value]);
  }

  private run(name: string, input: unknown): { to: readonly string[]; value: unknown }[] {
    const device = this.devices.get(name);
    if (!device) return [];
    device.callOff?.();
    device.callOff = undefined;
    const now = this.clock.now();
    const { state, out, wakeAt } = device.step(device.state, now, input);
    device.state = state;
    if (wakeAt !== undefined) device.callOff = this.clock.at(wakeAt, () => this.send(name, undefined));
    for (const value of out) this.watch(name, value, now);
    return out.map((value) => ({ to: device.to, value }));
  }
}

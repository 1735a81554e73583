/** The steps to a key store that is in use: who has to be there, and what they create. */
import type { KeyStore, Permission } from '@rawbits/api';

export interface KeyStep {
  what: string;
  done: boolean;
  /** How far it is, of what is counted. */
  count?: string;
  /** The screen where it is done, what that takes, and who does it. */
  at: 'operators' | 'keys';
  needs: Permission;
  who: string;
}

/** What takes two is never one person: one asks and the other agrees. */
export function keySteps({ set, people }: Pick<KeyStore, 'set' | 'people'>): KeyStep[] {
  const byAdministrator = { at: 'operators', needs: 'manage operators', who: 'An administrator' } as const;
  const ofTwo = (count: number) => `${Math.min(count, 2)} of 2`;
  return [
    {
      what: 'Two administrators: one makes a person a key custodian, the other agrees',
      done: people.agree >= 2,
      count: ofTwo(people.agree),
      ...byAdministrator,
    },
    {
      what: 'Two key custodians, so that nobody gets a key alone',
      done: people.custodians >= 2,
      count: ofTwo(people.custodians),
      ...byAdministrator,
    },
    {
      what: 'A key store with its passphrase',
      done: set,
      at: 'keys',
      needs: 'hold keys',
      who: 'A key custodian',
    },
  ];
}

/** Changing plans: what is new does not collide, what both kinds have stays, and what is pasted is told where it is wrong. */
import { problemsOfPlan } from '@rawbits/core/plan';
import { expect, it } from 'vitest';
import {
  changed,
  fileOfKind,
  freeId,
  freeNumber,
  grantFile,
  newApplication,
  newPlan,
  planFrom,
  withKeysTold,
} from './edit.ts';

it('the plan to begin with has no error', () => {
  expect(problemsOfPlan(newPlan('Staff card')).filter(({ weight }) => weight === 'error')).toEqual([]);
});

it('identifiers and numbers that are taken are not given again', () => {
  const plan = newPlan('a');
  expect(freeId(plan)).toBe('5A0002');
  expect(freeNumber(plan.applications[0]!)).toBe(0);
  expect(newApplication(plan).id).toBe('5A0002');
});

it('a file of another kind keeps what both have', () => {
  const file = fileOfKind('standard', 3);
  expect(fileOfKind('backup', 3, { ...file, name: 'log', size: 64 } as never)).toMatchObject({
    kind: 'backup',
    name: 'log',
    size: 64,
  });
  expect(fileOfKind('value', 3, file)).toMatchObject({ kind: 'value', rights: file.rights });
});

it('a grant for somebody is told among the keys as soon as it stands on the card', () => {
  const plan = changed(newPlan('a'), (draft) => {
    draft.applications[0]!.files.push(grantFile(draft, draft.applications[0]!, 'Harbour'));
  });
  const told = withKeysTold(plan);
  expect(told.keys.map(({ name, each }) => `${name} ${each}`)).toEqual([
    'Card master card',
    'Door number card',
    'Harbour card',
  ]);
  expect(withKeysTold(told)).toBe(told);
  expect(problemsOfPlan(told).filter(({ weight }) => weight === 'error')).toEqual([]);
});

it.each([
  ['{', 'This is no JSON'],
  ['[]', 'Invalid'],
  [
    '{"schema":"rawbits/plan@1","applications":[{"id":"xyz","keys":["a"]}]}',
    'applications.0.id: An application identifier has six hex digits',
  ],
  [`${'['.repeat(20_000)}`, 'This is no JSON'],
  ['{"schema":"rawbits/plan@1","__proto__":{"name":"x"}}', 'Unrecognized key'],
])('%.40s is told', (text, told) => {
  expect(planFrom(text)).toMatchObject({ problem: expect.stringContaining(told) });
});

it('a plan comes back from its text', () => {
  const plan = newPlan('b');
  expect(planFrom(JSON.stringify(plan))).toEqual({ plan });
});

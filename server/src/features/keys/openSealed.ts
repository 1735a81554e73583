/** What another site sealed for this one under a passphrase: a part of a plan, and the keys in it. */
import { keyApi } from '@rawbits/api';
import { Secret } from '@rawbits/core/secret';
import { handle } from '../../platform/http/app.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';
import { measuredJson } from '../../platform/shape/shape.ts';
import { takeIn } from './backup.ts';
import { decryptUnder, type KeyFile, readKeyFile } from './file.ts';

/** More than any list of a plan or its keys has. */
const MOST_IN_A_LIST = 10_000;
const UNOPENED = {
  code: 'sealed',
  message: 'The sealed file does not open.',
  hint: 'The passphrase is not right, or the file was damaged or changed; one sealed for a public key is opened with its private key, elsewhere.',
};

const openSealed = handle(keyApi.openSealed, async ({ app, operator, site, body, request }) => {
  await app.vault.open(site);
  const tried = { name: `sealed file ${site}`, client: clientOf(request) };
  const passphrase = new TextEncoder().encode(body.passphrase.reveal().normalize('NFC'));
  const look = () => decryptUnder(body.jwe, passphrase, UNOPENED);
  const { plan, file } = partsOf(await tryOnce(app.db, tried, look, { what: 'passphrases' }));
  const into: KeyFile = { ...file, keys: file.keys.map((key) => ({ ...key, set: body.set })) };
  return { plan, keys: await takeIn(app, operator, site, into, 'imported') };
});

function partsOf(opened: Secret): { plan: unknown; file: KeyFile } {
  const parts = measuredJson(opened.reveal(), MOST_IN_A_LIST);
  if (typeof parts !== 'object' || parts === null || !('plan' in parts) || !('keys' in parts))
    throw invalid(
      'jwe',
      'What is sealed in it is not a plan with its keys.',
      'A backup of keys is restored on the screen Keys.',
    );
  return { plan: parts.plan, file: readKeyFile(new Secret(JSON.stringify(parts.keys))) };
}

export const sealedRoutes = [openSealed];

import { randomBytes } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Keys lie apart from the data they open, in a folder only their owner can enter; a copy of the data alone opens nothing. */
const place = '.keys';

/** @typedef {{ superPassword: string, appPassword: string, secretKey: string, secretKeysBefore?: string[], directoryToken: string, answerKey: string }} Keys */

/** @param {string} folder the folder of the data */
const fileOf = (folder) => join(place, `${folder.replace(/^\.\/?/, '').replace(/[^\w-]+/g, '-')}.json`);

/**
 * Secrets of an installation, made once.
 * @param {string} folder
 * @returns {Keys}
 */
export function keysOf(folder) {
  mkdirSync(place, { recursive: true, mode: 0o700 });
  chmodSync(place, 0o700);
  const file = fileOf(folder);
  const before = join(folder, 'keys.json');
  if (!existsSync(file) && existsSync(before)) renameSync(before, file);
  const secret = () => randomBytes(24).toString('hex');
  if (existsSync(file)) {
    const kept = JSON.parse(readFileSync(file, 'utf8'));
    // An installation made before there was anything that signs what it answers.
    if (!kept.answerKey) keepKeys(folder, { ...kept, answerKey: secret() });
    return JSON.parse(readFileSync(file, 'utf8'));
  }
  const keys = {
    superPassword: secret(),
    appPassword: secret(),
    secretKey: randomBytes(32).toString('hex'),
    directoryToken: secret(),
    answerKey: secret(),
  };
  keepKeys(folder, keys);
  return keys;
}

/** @param {string} folder @param {Keys} keys */
export function keepKeys(folder, keys) {
  const file = fileOf(folder);
  // Written beside and put in place at once: a crash leaves the old or the new, never half of one.
  writeFileSync(`${file}.new`, JSON.stringify(keys), { mode: 0o600 });
  renameSync(`${file}.new`, file);
}

/** The same with a new key for secrets; the present one still opens what it sealed. @param {Keys} keys @returns {Keys} */
export const rotated = (keys) => ({
  ...keys,
  secretKey: randomBytes(32).toString('hex'),
  secretKeysBefore: [keys.secretKey, ...(keys.secretKeysBefore ?? [])],
});

import { chmodSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import { binaries } from './postgres.mjs';
import { run } from './run.mjs';
import { Problem } from './say.mjs';

/** @param {string} name */
const tool = (name) => join(binaries() ?? '', name);

/**
 * Writes a database to a file (pg_dump, custom format): everything in it as of one moment, while it is in use. Keys are not
 * in it; they are kept apart. @param {string} url @param {string} file
 */
export async function backup(url, file) {
  await run(tool('pg_dump'), ['--format=custom', '--no-owner', `--file=${file}`, `--dbname=${url}`], { meaning: 'The backup' });
  chmodSync(file, 0o600);
}

/** Reads a backup into an empty database, all or nothing. @param {string} file @param {string} url of a role that may make extensions and roles' grants */
export async function restore(file, url) {
  if (!existsSync(file)) throw new Problem(`There is no file ${file}.`);
  await run(tool('pg_restore'), ['--single-transaction', '--exit-on-error', '--no-owner', `--dbname=${url}`, file], { meaning: 'Restoring' });
}

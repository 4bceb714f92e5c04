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

/**
 * Puts one database in the place of another, which is kept beside it as `<name>_before`; the one kept so far goes. Whoever is connected loses the
 * connection. @param {{ superUrl: string }} server @param {string} name @param {string} by
 */
export async function replaceDatabase({ superUrl }, name, by) {
  const { default: pgClient } = await import('pg');
  const client = new pgClient.Client({ connectionString: superUrl });
  await client.connect();
  try {
    await client.query(`drop database if exists ${name}_before with (force)`);
    await client.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = any($1)', [[name, by]]);
    const there = await client.query('select from pg_database where datname = $1', [name]);
    if (there.rowCount) await client.query(`alter database ${name} rename to ${name}_before`);
    await client.query(`alter database ${by} rename to ${name}`);
  } finally {
    await client.end();
  }
}

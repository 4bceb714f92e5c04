import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { expect, fresh, test } from './support/story.ts';

test('what cannot be shown says so in its place, with a number that the log carries; the rest of the page goes on', async ({ as, complaints }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Begin an item' }).click();
  const name = fresh('Out of its time');
  await designer.getByLabel('Name').fill(name);
  await designer.getByRole('button', { name: 'Begin blank' }).click();
  await expect(designer.getByRole('heading', { level: 1, name })).toBeVisible();
  const address = designer.url();
  // A document of a version that this code does not know: nothing can be done but say so.
  const client = new pg.Client({ connectionString: process.env['DATABASE_URL']! });
  await client.connect();
  await client.query(`update item set draft = draft || '{"format": 99}' where name = $1`, [name]);
  await client.end();
  // Gone to within the page, and by its address: the place says it, and the bar above is still there.
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name, exact: true }).click();
  for (const again of [false, true]) {
    if (again) await designer.goto(address);
    await expect(designer.getByRole('heading', { level: 1, name: 'Something went wrong' })).toBeVisible();
    await expect(designer.getByRole('navigation', { name: 'Places' })).toBeVisible();
    const number = /Quote this number: ([0-9a-f]{8})/.exec(await designer.getByRole('main').innerText())?.[1];
    expect(number).toBeDefined();
    await expect
      .poll(() =>
        readFileSync(join('.data/test/logs/web.log'), 'utf8')
          .split('\n')
          .find((l) => l.includes(`"visit":"${number}"`) && l.includes('newer Nessmoor')),
      )
      .toBeDefined();
  }
  await designer.getByRole('link', { name: 'Go to the Counter' }).click();
  await expect(designer.getByRole('heading', { level: 1, name: 'What do you need?' })).toBeVisible();
  // The browser complains of what failed, and of nothing else.
  expect(complaints.splice(0).filter((c) => !/status of 500|Unexpected Server Error/.test(c))).toEqual([]);
});

import type { Page } from '@playwright/test';
import { begins, cast, choose, expect, fresh, test, waitFor } from './support/story.ts';

const nextYear = new Date().getFullYear() + 1;

/** Asks for a tablet and has the manager agree; gives the number. */
async function askFor(owner: Page, approver: Page): Promise<string> {
  await owner.goto('/counter?q=tablet');
  await owner
    .getByRole('link', { name: begins('Field tablet') })
    .first()
    .click();
  await owner.getByRole('textbox', { name: 'What you do with it (required)', exact: true }).fill('Reading the poles at the outer skerries');
  await owner.getByRole('textbox', { name: 'Until which day (required)', exact: true }).fill(`30.06.${nextYear}`);
  await owner.getByRole('radio', { name: 'No', exact: true }).click();
  await owner.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(owner.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await owner.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number, exact: true }).click();
  await approver.getByRole('button', { name: /^Approve for/ }).click();
  await expect(approver.getByText(/^You approved this\./)).toBeVisible();
  return number;
}

test('a tablet is asked for, set aside at the nearest stores, handed over by its serial number, received, given back and taken in', async ({
  as,
}) => {
  const [owner, approver, keeper] = [await as('owner'), await as('approver'), await as('technician')];
  const number = await askFor(owner, approver);
  // Whoever asked reads how it stands, and reads on as it goes on.
  await expect(owner.getByText(/^“(Set aside at .*, and being picked|Waiting for a Field tablet.*)”$/)).toBeVisible();
  await keeper.goto('/desk/queue');
  await keeper.getByRole('link', { name: begins('Equipment') }).click();
  const line = keeper
    .getByRole('region', { name: 'To hand over', exact: true })
    .getByRole('listitem')
    .filter({ hasText: `${number},` });
  await expect(line).toContainText(cast.owner);
  const mark = /F?T-\d+/.exec((await line.textContent())!)![0];
  await line.getByRole('button', { name: `It stands ready (Field tablet for ${cast.owner})`, exact: true }).click();
  await expect(line).toContainText('Ready to be fetched at');
  await expect(owner.getByText(/^“Ready to be fetched at .*”$/)).toBeVisible();
  const box = line.getByRole('textbox', { name: 'Serial number on it', exact: true });
  await box.fill('FT-9999');
  await line.getByRole('button', { name: `Hand over to ${cast.owner}`, exact: true }).click();
  await expect(box).toHaveAccessibleDescription(/No Field tablet with “FT-9999” is known\.$/);
  await box.fill(mark.toLowerCase());
  await line.getByRole('button', { name: `Hand over to ${cast.owner}`, exact: true }).click();
  await expect(line).toHaveCount(0);
  await waitFor(owner, number, 'Fulfilled');

  await owner.goto('/counter/things');
  const handed = owner.getByRole('region', { name: 'Handed over to you', exact: true }).getByRole('listitem').filter({ hasText: mark });
  await handed
    .getByText(/^I do not have it/)
    .first()
    .click();
  await handed.getByRole('button', { name: 'Tell whoever keeps the stock', exact: true }).click();
  await expect(handed.getByRole('textbox', { name: 'What happened (required)', exact: true })).toHaveAccessibleDescription(
    'Say what happened; whoever keeps the stock reads it.',
  );
  await handed.getByRole('button', { name: `I have it (Field tablet ${mark})`, exact: true }).click();
  await expect(handed).toHaveCount(0);
  const thing = owner.getByRole('list', { name: 'My things', exact: true }).getByRole('listitem').filter({ hasText: mark });
  await expect(thing).toContainText(`lent until 30 Jun ${nextYear}`);
  await thing.getByText(/^Give it back/).click();
  await thing.getByRole('button', { name: `Give back Field tablet ${mark}`, exact: true }).click();
  await expect(thing).toContainText('Being given back since');

  await keeper.goto('/desk/equipment');
  const back = keeper.getByRole('listitem', { name: `Field tablet ${mark} from ${cast.owner}`, exact: true });
  await expect(async () => {
    await keeper.reload();
    await expect(back).toBeVisible({ timeout: 5000 });
  }).toPass();
  await choose(back.getByRole('combobox', { name: 'How it came back', exact: true }), 'To be repaired');
  await back.getByRole('textbox', { name: 'Note', exact: true }).fill('The glass is cracked.');
  await back.getByRole('button', { name: `Take in Field tablet ${mark}`, exact: true }).click();
  await expect(back).toHaveCount(0);
  await expect(async () => {
    await owner.reload();
    await expect(thing).toHaveCount(0, { timeout: 5000 });
  }).toPass();

  // The piece keeps what became of it; mended it is free again.
  await keeper.getByRole('link', { name: 'All pieces', exact: true }).click();
  await keeper.getByRole('searchbox', { name: /^Find by kind, serial number/ }).fill(mark);
  await keeper.getByRole('row').filter({ hasText: mark }).getByRole('link').first().click();
  const slip = keeper.getByRole('article').filter({ hasText: mark });
  await expect(slip).toContainText('“The glass is cracked.”');
  await slip.getByRole('button', { name: `Say so of Field tablet ${mark}`, exact: true }).click();
  await expect(slip).toContainText('Free again');
});

test('a kind is named, its pieces arrive and are counted; what runs low is to be ordered, and is ordered', async ({ as }) => {
  const [designer, keeper] = [await as('designer'), await as('technician')];
  const kind = fresh('Tide lamp');
  await designer.goto('/workshop/equipment');
  const kinds = designer.getByRole('region', { name: 'Kinds', exact: true });
  await kinds.getByRole('button', { name: 'Add this kind', exact: true }).click();
  await expect(kinds.getByRole('textbox', { name: 'Another kind', exact: true })).toHaveAccessibleDescription(/Give it a name\.$/);
  await kinds.getByRole('textbox', { name: 'Another kind', exact: true }).fill(kind);
  await kinds.getByRole('button', { name: 'Add this kind', exact: true }).click();
  await expect(kinds.getByRole('listitem').filter({ hasText: kind })).toContainText('0 pieces');
  await designer.getByRole('textbox', { name: `Fewest free of ${kind}, Stores`, exact: true }).fill('2');
  await designer.getByRole('button', { name: `Set (${kind}, Stores)`, exact: true }).click();
  await expect(designer.getByRole('alert').filter({ hasText: 'A whole number.' })).toBeVisible();
  await designer.getByRole('textbox', { name: `Ordered up to of ${kind}, Stores`, exact: true }).fill('4');
  await designer.getByRole('button', { name: `Set (${kind}, Stores)`, exact: true }).click();
  await expect(designer.getByRole('status').filter({ hasText: 'It is kept so from now on.' })).toBeVisible();

  await keeper.goto('/desk/equipment');
  const order = keeper.getByRole('listitem', { name: `4 ${kind} for Stores`, exact: true });
  await order.getByRole('button', { name: `It is ordered (4 ${kind} for Stores)`, exact: true }).click();
  await expect(order.getByRole('textbox', { name: 'Order number', exact: true })).toHaveAccessibleDescription(
    'Say by what it is known where it was ordered.',
  );
  await order.getByRole('textbox', { name: 'Order number', exact: true }).fill('PO-88');
  await order.getByRole('textbox', { name: 'Expected on', exact: true }).fill(`15.01.${nextYear}`);
  await order.getByRole('button', { name: `It is ordered (4 ${kind} for Stores)`, exact: true }).click();
  await expect(order).toContainText(`Ordered as PO-88, expected on 15 Jan ${nextYear}`);
  await order.getByRole('link', { name: `Take in what has arrived (4 ${kind} for Stores)`, exact: true }).click();
  const entry = keeper.getByRole('region', { name: 'Take in or count', exact: true });
  await entry.getByRole('textbox', { name: 'Serial numbers', exact: true }).fill('TL-1\nTL-2\nTL-3\nTL-4');
  await entry.getByRole('button', { name: 'Take these in as new', exact: true }).click();
  await expect(keeper.getByRole('status').filter({ hasText: '4 pieces were taken in.' })).toBeVisible();
  await expect(keeper.getByRole('row', { name: new RegExp(`^${kind} Stores 4 0`) })).toBeVisible();
  await entry.getByRole('textbox', { name: 'Serial numbers', exact: true }).fill('TL-1, TL-2, TL-9');
  await entry.getByRole('button', { name: 'Hold this count against the books', exact: true }).click();
  const found = keeper.getByRole('list', { name: `What was counted of ${kind}`, exact: true });
  await expect(found).toContainText('2 not found: TL-3, TL-4');
  await expect(found).toContainText('1 not in the books: TL-9');
  await entry.getByRole('button', { name: 'Let the books follow this count', exact: true }).click();
  await expect(keeper.getByRole('row', { name: new RegExp(`^${kind} Stores 3 0 0 0 2`) })).toBeVisible();
});

import { mailbox } from './support/outside.ts';
import { expect, fresh, state, test } from './support/story.ts';
import { itemWith, publish, told } from './support/workshop.ts';

test('somebody without a sign-in asks by a public link, confirms by mail, and follows it there', async ({ as, browser, complaints }) => {
  const fields = [{ id: 'where', kind: 'text', label: 'Where it lies', required: true }];
  const { page, name } = await itemWith(as, fresh('Lost buoy'), { fields }, [told('end')]);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await page.getByRole('button', { name: 'About the item', exact: true }).click();
  await page.getByRole('checkbox', { name: /^Can be asked for from outside, by a public link/ }).check();
  await publish(page);
  const its = page.getByRole('region', { name: 'Public link', exact: true });
  await its.getByRole('button', { name: 'Make the link', exact: true }).click();
  const link = await its.getByRole('textbox', { name: 'Address of the public link', exact: true }).inputValue();

  const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
  const sailor = await context.newPage();
  sailor.on('pageerror', (e) => complaints.push(e.message));
  await sailor.goto(link);
  await expect(sailor.getByRole('heading', { name, level: 1, exact: true })).toBeVisible();
  const send = sailor.getByRole('button', { name: 'Send, and confirm by mail', exact: true });
  await expect(sailor.getByText('Still missing: Your name, Your e-mail address, Where it lies', { exact: true })).toBeVisible();
  await sailor.getByRole('textbox', { name: 'Your name (required)', exact: true }).fill('Oda Vik');
  const address = `${fresh('oda').replace(' ', '.')}@sail.example`;
  await sailor.getByRole('textbox', { name: 'Your e-mail address (required)', exact: true }).fill(address);
  await send.click();
  await expect(sailor.getByRole('textbox', { name: 'Where it lies (required)', exact: true })).toBeFocused();
  await expect(sailor.getByRole('textbox', { name: 'Your name (required)', exact: true })).toHaveValue('Oda Vik');
  await sailor.getByRole('textbox', { name: 'Where it lies (required)', exact: true }).fill('North of the mole');
  await send.click();
  await expect(sailor.getByRole('heading', { name: 'Look into your mail', exact: true })).toBeVisible();

  const mail = await mailbox.wait(address, 'Until then nothing is asked', 'Confirm your request');
  await sailor.goto(/http\S+\/public\/requests\/\S+/.exec(mail.text)![0]);
  await expect(sailor.getByText('North of the mole', { exact: true })).toBeVisible();
  await sailor.getByRole('button', { name: 'Send the request', exact: true }).click();
  await expect(state(sailor)).toContainText('Fulfilled');
  await expect(sailor.getByText('North of the mole', { exact: true })).toBeVisible();
  const number = await sailor.getByText(/^R-\d+$/).textContent();
  await page.goto(`/ledger/${number!.slice(2)}`);
  await expect(page.getByText('Oda Vik (from outside)', { exact: true }).first()).toBeVisible();

  // No file is taken from outside, whatever page it is sent to.
  const file = { name: 'chart.txt', mimeType: 'text/plain', buffer: Buffer.from('x') };
  const headers = { origin: new URL(link).origin };
  expect((await context.request.post(sailor.url().split('?')[0]!, { headers, multipart: { file } })).status()).toBe(415);
  expect((await context.request.post(link, { headers, multipart: { file } })).status()).toBe(415);

  // Closed, the link leads nowhere; what was asked by it is there still.
  await page.goBack();
  await its.getByRole('button', { name: 'Close it', exact: true }).click();
  await expect(its.getByRole('button', { name: 'Make the link', exact: true })).toBeVisible();
  await sailor.reload();
  await expect(state(sailor)).toContainText('Fulfilled');
  await sailor.goto(link);
  await expect(sailor.getByRole('heading', { name: 'This link leads nowhere', exact: true })).toBeVisible();
  await context.close();
});

test('before scripts load: asked for by a public link', async ({ as, browser }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Chart correction', exact: true }).click();
  await designer.waitForURL(/\/plan$/);
  await designer.goto(designer.url().replace(/plan$/, 'publish'));
  const link = await designer.getByRole('textbox', { name: 'Address of the public link', exact: true }).inputValue();
  const context = await browser.newContext({ javaScriptEnabled: false });
  const sailor = await context.newPage();
  await sailor.goto(link);
  await sailor.getByRole('textbox', { name: 'Your name (required)', exact: true }).fill('Eli Nord');
  const address = `${fresh('eli').replace(' ', '.')}@sail.example`;
  await sailor.getByRole('textbox', { name: 'Your e-mail address (required)', exact: true }).fill(address);
  await sailor.getByRole('textbox', { name: 'Number of the chart (required)', exact: true }).fill('204');
  await sailor.getByRole('combobox', { name: 'What is wrong (required)', exact: true }).selectOption('A depth');
  await sailor.getByRole('textbox', { name: 'Where (required)', exact: true }).fill('62 01 N 6 46 W');
  await sailor.getByRole('textbox', { name: 'What you found (required)', exact: true }).fill('Four metres where the chart says seven.');
  await sailor.getByRole('textbox', { name: 'Seen on (required)', exact: true }).fill('2026-11-20');
  await sailor.getByRole('button', { name: 'Send, and confirm by mail', exact: true }).click();
  await expect(sailor.getByText('A chart is numbered SK- and three or four digits.', { exact: true })).toBeVisible();
  await sailor.getByRole('textbox', { name: 'Number of the chart (required)', exact: true }).fill('SK-204');
  await sailor.getByRole('button', { name: 'Send, and confirm by mail', exact: true }).click();
  await expect(sailor.getByRole('heading', { name: 'Look into your mail', exact: true })).toBeVisible();
  const mail = await mailbox.wait(address, 'Chart correction', 'Confirm your request');
  await sailor.goto(/http\S+\/public\/requests\/\S+/.exec(mail.text)![0]);
  await sailor.getByRole('button', { name: 'Send the request', exact: true }).click();
  await expect(
    sailor
      .getByText(/Now: It is held against our survey/)
      .or(sailor.getByText(/^\s*It is held against our survey/))
      .first(),
  ).toBeVisible();
  await context.close();
});

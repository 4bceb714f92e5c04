import { expect, fresh, test } from './support/story.ts';

test('service hours are painted by keys, typed, tried, brought holidays, and given to a place; the desk opens by them', async ({ as }) => {
  const page = await as('designer');
  await page.goto('/workshop/hours');
  const name = fresh('Boat Shed');
  await page.getByRole('textbox', { name: 'Name of new hours', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin hours', exact: true }).click();
  await expect(page.getByRole('heading', { name, level: 1, exact: true })).toBeVisible();
  const monday = page.getByRole('textbox', { name: 'Monday: hours', exact: true });
  await expect(monday).toHaveValue('08:00 to 16:00');

  // From 08:00 on Monday four hours back to 06:00, two days down; Space opens what was closed where the block began.
  await page.getByRole('grid', { name: 'The week', exact: true }).focus();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowLeft');
  for (let i = 0; i < 7; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Space');
  await expect(monday).toHaveValue('06:00 to 16:00');
  await expect(page.getByRole('textbox', { name: 'Tuesday: hours', exact: true })).toHaveValue('06:00 to 16:00');
  await expect(page.getByRole('textbox', { name: 'Wednesday: hours', exact: true })).toHaveValue('08:00 to 16:00');
  // By the mouse: over what is open closes it.
  const cell = (words: string) => page.getByRole('gridcell', { name: words, exact: true });
  await cell('Wednesday 12:00, open').hover();
  await page.mouse.down();
  await cell('Wednesday 12:45, open').hover();
  await page.mouse.up();
  await expect(page.getByRole('textbox', { name: 'Wednesday: hours', exact: true })).toHaveValue('08:00 to 12:00 and 13:00 to 16:00');
  // Typed; what is none says so and changes nothing.
  const saturday = page.getByRole('textbox', { name: 'Saturday: hours', exact: true });
  await saturday.fill('noon');
  await expect(page.getByText('Write 8-12, 13-16, or closed, or round the clock.', { exact: true })).toBeVisible();
  await saturday.fill('22-24');
  await monday.focus();
  await expect(saturday).toHaveValue('22:00 to 24:00');

  await page.getByLabel('Bring in a calendar of holidays (iCalendar, .ics)', { exact: true }).setInputFiles({
    name: 'holidays.ics',
    mimeType: 'text/calendar',
    buffer: Buffer.from(
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'BEGIN:VEVENT',
        'UID:1',
        'DTSTART;VALUE=DATE:20200615',
        'RRULE:FREQ=YEARLY',
        'SUMMARY:Day of the slipway',
        'END:VEVENT',
        'END:VCALENDAR',
      ].join('\r\n'),
    ),
  });
  await expect(page.getByText(/^12 holidays brought in/)).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Holiday 1: what it is called', exact: true })).toHaveValue('Day of the slipway');
  const tried = page.getByRole('region', { name: 'Try these hours', exact: true });
  await tried
    .getByRole('combobox', { name: 'From the day', exact: true })
    .or(tried.getByRole('textbox', { name: 'From the day', exact: true }))
    .fill('2026-12-01');
  await tried.getByRole('textbox', { name: 'From the time', exact: true }).fill('14:10');
  // Tuesday, until 16:00: 1 h 50 min; Wednesday from 08:00: 2 h 10 min.
  await expect(tried.getByRole('status')).toHaveText('4 h from Tuesday 14:10 ends Wednesday 10:10, 2 Dec 2026.');
  await page.getByRole('button', { name: 'Keep these hours', exact: true }).click();
  await expect(page.getByText('Everything is kept.', { exact: true })).toBeVisible();
  await expect(page.getByText(/^Version 2,/)).toBeVisible();

  await page.getByRole('form', { name: 'Whose hours these are', exact: true }).getByRole('checkbox', { name: 'Boat Shed', exact: true }).check();
  await page.getByRole('button', { name: 'Keep whose they are', exact: true }).click();
  await expect(page.getByText('This is kept.', { exact: true })).toBeVisible();
  await page.goto('/workshop/hours');
  await expect(page.getByRole('listitem').filter({ hasText: name })).toContainText('For Boat Shed');
});

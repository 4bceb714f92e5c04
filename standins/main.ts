import { join } from 'node:path';
import { calendars } from './calendars.ts';
import { chat } from './chat.ts';
import { directory } from './directory.ts';
import { guestHouse } from './guests.ts';
import { machines } from './machines.ts';
import { mailbox } from './mailbox.ts';
import { robotDesk } from './robots.ts';
import { projectSpaces } from './spaces.ts';
import { staffOffice } from './staff.ts';
import { yard } from './yard.ts';

/** All stand-ins in one process, each on a loopback port of its own. */
const port = (name: string): number => {
  const value = Number(process.env[name]);
  if (!Number.isInteger(value) || value <= 0) throw new Error(`Set ${name} to a port.`);
  return value;
};
const folder = process.env['STANDINS_FOLDER'];
const file = (name: string) => (folder ? { file: join(folder, `${name}.json`) } : {});
const token = process.env['DIRECTORY_TOKEN'];
if (!token) throw new Error('Set DIRECTORY_TOKEN.');

const answerKeyOf = (name: string): string => {
  const key = process.env[name];
  if (!key) throw new Error(`Set ${name}.`);
  return key;
};
const [machinesKey, robotsKey, yardKey] = [answerKeyOf('MACHINES_ANSWER_KEY'), answerKeyOf('ROBOTS_ANSWER_KEY'), answerKeyOf('YARD_ANSWER_KEY')];

const mail = mailbox({ ...file('mailbox'), ...(process.env['MAIL_IN_URL'] && { replies: process.env['MAIL_IN_URL'] }) });
const started = [
  new Promise<void>((up, no) => directory({ token, ...file('directory') }).listen(port('DIRECTORY_PORT'), '127.0.0.1', (e) => (e ? no(e) : up()))),
  new Promise<void>((up, no) => {
    mail.smtp.on('error', no);
    mail.smtp.listen(port('SMTP_PORT'), '127.0.0.1', up);
  }),
  new Promise<void>((up, no) =>
    chat({ token: process.env['CHAT_TOKEN'] ?? token, ...file('chat') }).listen(port('CHAT_PORT'), '127.0.0.1', (e) => (e ? no(e) : up())),
  ),
  new Promise<void>((up, no) =>
    machines({ token: process.env['MACHINES_TOKEN'] ?? token, answerKey: machinesKey, ...file('machines') }).listen(
      port('MACHINES_PORT'),
      '127.0.0.1',
      (e) => (e ? no(e) : up()),
    ),
  ),
  new Promise<void>((up, no) =>
    robotDesk({ token: process.env['ROBOTS_TOKEN'] ?? token, answerKey: robotsKey, ...file('robots') }).listen(
      port('ROBOTS_PORT'),
      '127.0.0.1',
      (e) => (e ? no(e) : up()),
    ),
  ),
  new Promise<void>((up, no) =>
    staffOffice({ token: process.env['STAFF_TOKEN'] ?? token, ...file('staff') }).listen(port('STAFF_PORT'), '127.0.0.1', (e) => (e ? no(e) : up())),
  ),
  new Promise<void>((up, no) =>
    calendars({ token: process.env['CALENDAR_TOKEN'] ?? token, ...file('calendars') }).listen(port('CALENDAR_PORT'), '127.0.0.1', (e) =>
      e ? no(e) : up(),
    ),
  ),
  new Promise<void>((up, no) =>
    projectSpaces({ token: process.env['SPACES_TOKEN'] ?? token, ...file('spaces') }).listen(port('SPACES_PORT'), '127.0.0.1', (e) =>
      e ? no(e) : up(),
    ),
  ),
  new Promise<void>((up, no) =>
    yard({ token: process.env['YARD_TOKEN'] ?? token, answerKey: yardKey, ...file('yard') }).listen(port('YARD_PORT'), '127.0.0.1', (e) =>
      e ? no(e) : up(),
    ),
  ),
  new Promise<void>((up, no) => {
    const on = port('GUESTS_PORT');
    const smtp = `smtp://127.0.0.1:${port('SMTP_PORT')}`;
    const house = guestHouse({ token: process.env['GUESTS_TOKEN'] ?? token, smtp, address: `http://127.0.0.1:${on}`, ...file('guests') });
    house.listen(on, '127.0.0.1', (e) => (e ? no(e) : up()));
  }),
  new Promise<void>((up, no) => mail.web.listen(port('MAILBOX_PORT'), '127.0.0.1', (e) => (e ? no(e) : up()))),
];
process.on('SIGTERM', () => process.exit(0));
process.on('SIGINT', () => process.exit(0));
try {
  await Promise.all(started);
  console.log('standins ready');
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exit(1);
}

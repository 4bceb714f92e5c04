import { join } from 'node:path';
import { keysOf } from './keys.mjs';

/** The ports of an installation: fourteen in a row. @param {number} first */
export const portsFrom = (first) => ({
  web: first,
  directory: first + 1,
  smtp: first + 2,
  mailbox: first + 3,
  postgres: first + 4,
  replies: first + 5,
  chat: first + 6,
  machines: first + 7,
  robots: first + 8,
  guests: first + 9,
  staff: first + 10,
  calendars: first + 11,
  spaces: first + 12,
  yard: first + 13,
});

/** The settings its processes get. @param {string} folder @param {ReturnType<typeof portsFrom>} ports @param {string} databaseUrl @returns {Record<string, string>} */
export function settings(folder, ports, databaseUrl) {
  const keys = keysOf(folder);
  return {
    NODE_ENV: 'production',
    DATABASE_URL: databaseUrl,
    PORT: String(ports.web),
    PUBLIC_URL: process.env['PUBLIC_URL'] ?? `http://127.0.0.1:${ports.web}`,
    SECRET_KEY: process.env['SECRET_KEY'] ?? keys.secretKey,
    SECRET_KEYS_BEFORE: process.env['SECRET_KEYS_BEFORE'] ?? (keys.secretKeysBefore ?? []).join(','),
    DIRECTORY_URL: `http://127.0.0.1:${ports.directory}/scim/v2`,
    DIRECTORY_TOKEN: keys.directoryToken,
    DIRECTORY_PORT: String(ports.directory),
    SMTP_URL: `smtp://127.0.0.1:${ports.smtp}`,
    SMTP_PORT: String(ports.smtp),
    MAILBOX_PORT: String(ports.mailbox),
    MAIL_FROM: process.env['MAIL_FROM'] ?? 'Nessmoor <desk@skerrin.example>',
    MAIL_DOMAIN: process.env['MAIL_DOMAIN'] ?? 'nessmoor.skerrin.example',
    CHAT_DOMAIN: process.env['CHAT_DOMAIN'] ?? 'skerrin.example',
    MAIL_IN_PORT: String(ports.replies),
    MAIL_IN_URL: `smtp://127.0.0.1:${ports.replies}`,
    CHAT_URL: `http://127.0.0.1:${ports.chat}`,
    CHAT_PORT: String(ports.chat),
    CHAT_TOKEN: keys.directoryToken,
    MACHINES_URL: `http://127.0.0.1:${ports.machines}/park`,
    MACHINES_PORT: String(ports.machines),
    MACHINES_TOKEN: keys.directoryToken,
    MACHINES_ANSWER_KEY: keys.answerKey,
    ROBOTS_URL: `http://127.0.0.1:${ports.robots}/desk`,
    ROBOTS_PORT: String(ports.robots),
    ROBOTS_TOKEN: keys.directoryToken,
    ROBOTS_ANSWER_KEY: keys.answerKey,
    GUESTS_URL: `http://127.0.0.1:${ports.guests}/house`,
    GUESTS_PORT: String(ports.guests),
    GUESTS_TOKEN: keys.directoryToken,
    STAFF_URL: `http://127.0.0.1:${ports.staff}/staff`,
    STAFF_PORT: String(ports.staff),
    STAFF_TOKEN: keys.directoryToken,
    CALENDAR_URL: `http://127.0.0.1:${ports.calendars}/outbox`,
    CALENDAR_PORT: String(ports.calendars),
    CALENDAR_TOKEN: keys.directoryToken,
    SPACES_URL: `http://127.0.0.1:${ports.spaces}/house`,
    SPACES_PORT: String(ports.spaces),
    SPACES_TOKEN: keys.directoryToken,
    YARD_URL: `http://127.0.0.1:${ports.yard}/tracker`,
    YARD_PORT: String(ports.yard),
    YARD_TOKEN: keys.directoryToken,
    YARD_ANSWER_KEY: keys.answerKey,
    STANDINS_FOLDER: join(folder, 'standins'),
  };
}

const tsx = ['--import', 'tsx'];
/** What is started ends with who started it. */
const withParent = ['--import', './scripts/lib/with-parent.mjs'];
/** The stand-ins are other people's systems: they get what they need, and none of our keys. @param {Record<string, string>} env */
const theirs = (env) =>
  Object.fromEntries(
    Object.entries(env).filter(([name]) =>
      /^(NODE_ENV|DIRECTORY_|SMTP_|MAILBOX_|MAIL_IN_|CHAT_|MACHINES_|ROBOTS_|GUESTS_|STAFF_|CALENDAR_|SPACES_|YARD_|STANDINS_)/.test(name),
    ),
  );

/** How each process is started. @param {string} folder @param {Record<string, string>} env */
export const processes = (folder, env) => ({
  standins: {
    name: 'The stand-ins',
    command: process.execPath,
    args: [...withParent, ...tsx, 'standins/main.ts'],
    env: theirs(env),
    log: join(folder, 'logs/standins.log'),
    ready: 'standins ready',
  },
  worker: {
    name: 'The worker',
    command: process.execPath,
    args: [...withParent, 'build/processes/worker.js'],
    env,
    log: join(folder, 'logs/worker.log'),
    ready: 'worker ready',
  },
  web: {
    name: 'The web process',
    command: process.execPath,
    args: [...withParent, 'build/processes/web.js'],
    env,
    log: join(folder, 'logs/web.log'),
    ready: 'web ready',
  },
});

import { createTransport, type SendMailOptions } from 'nodemailer';
import { expect } from '@playwright/test';
import type { Received } from '../../standins/mailbox.ts';

/** What stands outside: the directory and the mailbox, asked over their own ports. */
const env = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error('Run the browser tests with: npm test -- browser');
  return value;
};
const json = async <T>(url: string, init?: RequestInit): Promise<T> => (await (await fetch(url, init)).json()) as T;
const scim = <T>(path: string) => json<T>(`${env('DIRECTORY_URL')}${path}`, { headers: { authorization: `Bearer ${env('DIRECTORY_TOKEN')}` } });

interface Group {
  id: string;
  members: { value: string; display: string }[];
}

export const directory = {
  /** How often a person is a member of a group; 0 or 1, if nothing was done twice. */
  async memberships(group: string, person: string): Promise<number> {
    const { Resources } = await scim<{ Resources: Group[] }>(`/Groups?filter=${encodeURIComponent(`displayName eq "${group}"`)}`);
    return Resources[0]!.members.filter((m) => m.display === person).length;
  },
  /** Changes the directory really made to a group, newest last. */
  async changes(group: string): Promise<{ change: string; method: string }[]> {
    const { Resources } = await scim<{ Resources: Group[] }>(`/Groups?filter=${encodeURIComponent(`displayName eq "${group}"`)}`);
    const journal = await json<{ id: string; change: string; method: string }[]>(`http://127.0.0.1:${env('DIRECTORY_PORT')}/_journal`);
    return journal.filter((j) => j.id === Resources[0]!.id && j.method === 'PATCH');
  },
  /** Whether it lets somebody in. */
  letsIn: async (userName: string, password: string): Promise<boolean> =>
    (
      await fetch(`http://127.0.0.1:${env('DIRECTORY_PORT')}/_sign-in`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ userName, password }),
      })
    ).status === 204,
  /** Whether somebody of this user name has an account that is open; undefined where there is none. */
  async isOpen(userName: string): Promise<boolean | undefined> {
    const { Resources } = await scim<{ Resources: { active: boolean }[] }>(`/Users?filter=${encodeURIComponent(`userName eq "${userName}"`)}`);
    return Resources[0]?.active;
  },
  manner: (manner: 'well' | 'slow' | 'failing' | 'refusing', delayMs = 3000) =>
    json(`http://127.0.0.1:${env('DIRECTORY_PORT')}/_manner`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ manner, delayMs }),
    }),
};

export const park = {
  /** Somebody makes a machine without asking here, and it is ready; gives what it is called. */
  async makePast(owner: string): Promise<string> {
    const { id } = await json<{ id: string }>(`${env('MACHINES_URL')}/machines`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${env('MACHINES_TOKEN')}` },
      body: JSON.stringify({ size: 'Small', region: 'hall', days: 9, owner }),
    });
    await json(`http://127.0.0.1:${env('MACHINES_PORT')}/_hurry/${id}`, { method: 'POST' });
    return id;
  },
  /** The sizes it has. */
  sizes: async () =>
    (await json<{ sizes: object[] }>(`${env('MACHINES_URL')}/sizes`, { headers: { authorization: `Bearer ${env('MACHINES_TOKEN')}` } })).sizes,
  setSizes: (sizes: object[]) =>
    json(`http://127.0.0.1:${env('MACHINES_PORT')}/_sizes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(sizes),
    }),
  /** What was really done to a machine, in order. */
  changes: async (id: string) =>
    (await json<{ id: string; change: string }[]>(`http://127.0.0.1:${env('MACHINES_PORT')}/_journal`))
      .filter((j) => j.id === id)
      .map((j) => j.change),
};

export const house = {
  /** Whether guests accept as soon as they are invited. */
  accept: (accept: 'later' | 'at once') =>
    json(`http://127.0.0.1:${env('GUESTS_PORT')}/_ways`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ accept, closed: '' }),
    }),
  guest: async (mail: string) =>
    (await json<{ mail: string; rooms: string[]; removedAt?: string }[]>(`http://127.0.0.1:${env('GUESTS_PORT')}/_guests`)).find(
      (g) => g.mail === mail,
    ),
};

export const spaces = {
  /** A space as its system has it, or none. */
  find: async (name: string) =>
    (await json<{ name: string; state: string; owners: string[]; template: string }[]>(`http://127.0.0.1:${env('SPACES_PORT')}/_spaces`)).find(
      (s) => s.name === name,
    ),
  /** Somebody prepares a space past us. */
  prepare: (name: string) =>
    json(`${env('SPACES_URL')}/spaces`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${env('SPACES_TOKEN')}` },
      body: JSON.stringify({ name, template: 'empty', seen: 'members', purpose: 'Made past us' }),
    }),
  /** Somebody used it last so many days ago. */
  use: (name: string, daysAgo: number) =>
    json(`http://127.0.0.1:${env('SPACES_PORT')}/_use/${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ daysAgo }),
    }),
};

export const yard = {
  /** What the people of the yard have before them: a page of theirs. */
  page: `http://127.0.0.1:${env('YARD_PORT')}/`,
};

export const office = {
  /** The staff office tells what somebody is from today on. */
  tell: (record: Record<string, string>) =>
    json(`http://127.0.0.1:${env('STAFF_PORT')}/_change`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ from: new Date().toISOString().slice(0, 10), record }),
    }),
  /** What it told last of a staff number. */
  async last(staffNumber: string): Promise<Record<string, string>> {
    const read = async (after: number): Promise<{ number: number; record: Record<string, string> }[]> => {
      const { changes } = await json<{ changes: { number: number; record: Record<string, string> }[] }>(
        `${env('STAFF_URL')}/changes?after=${after}`,
        {
          headers: { authorization: `Bearer ${env('STAFF_TOKEN')}` },
        },
      );
      return changes.length === 0 ? [] : [...changes, ...(await read(changes.at(-1)!.number))];
    };
    return (await read(0)).findLast((c) => c.record['staffNumber'] === staffNumber)!.record;
  },
  manner: (manner: 'well' | 'failing') =>
    json(`http://127.0.0.1:${env('STAFF_PORT')}/_manner`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ manner }),
    }),
};

export const robots = {
  /** Whether this is the password that an account has now. */
  opens: async (account: string, password: string): Promise<boolean> =>
    (
      await json<{ opens: boolean }>(`http://127.0.0.1:${env('ROBOTS_PORT')}/_opens`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ account, password }),
      })
    ).opens,
};

export const mailbox = {
  to: (address: string) => json<Received[]>(`http://127.0.0.1:${env('MAILBOX_PORT')}/_messages?to=${address}`),
  /** Waits for the mail that holds these words (a request's number), in its subject or its text. */
  async wait(address: string, words: string, subject = ''): Promise<Received> {
    let found: Received | undefined;
    const about = (m: Received) => m.subject.includes(subject) && `${m.subject}\n${m.text}`.includes(words);
    await expect
      .poll(async () => Boolean((found = (await mailbox.to(address)).find(about))), {
        message: `mail to ${address} with ${words}: ${subject}`,
      })
      .toBe(true);
    return found!;
  },
  /** Answers an invitation, as a calendar program would. */
  answer: async (n: number, says: 'yes' | 'no' | 'maybe', comment = '') =>
    (await fetch(`http://127.0.0.1:${env('MAILBOX_PORT')}/message/${n}/answer`, { method: 'POST', body: new URLSearchParams({ says, comment }) }))
      .status,
};

export const calendars = {
  /** Somebody is taken, as their calendar says. */
  takes: (address: string, from: string, to: string) =>
    json(`http://127.0.0.1:${env('CALENDAR_PORT')}/_taken`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify([{ address, from, to }]),
    }),
};

/** Mail as people send it to the desk. */
export const mail = {
  send: (m: SendMailOptions) => createTransport(env('MAIL_IN_URL')).sendMail(m),
};

export const chat = {
  /** Says something in a channel; gives the event it became. */
  async sayIn(channel: string, user: string, text: string): Promise<string> {
    const base = `http://127.0.0.1:${env('CHAT_PORT')}`;
    await fetch(`${base}/channel`, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ channel, user, text }) });
    const events = await json<{ event_id: string; content: { body: string } }[]>(`${base}/_events?channel=${channel}`);
    return events.findLast((e) => e.content.body === text)!.event_id;
  },
  /** Waits until something that holds these words stands in a thread of a channel. */
  async waitIn(channel: string, root: string, words: string): Promise<string> {
    let found = '';
    await expect
      .poll(
        async () => {
          const events = await json<{ content: { body: string; 'm.relates_to'?: { event_id: string } } }[]>(
            `http://127.0.0.1:${env('CHAT_PORT')}/_events?channel=${channel}`,
          );
          return (found = events.find((e) => e.content['m.relates_to']?.event_id === root && e.content.body.includes(words))?.content.body ?? '');
        },
        { message: `“${words}” in a thread of ${channel}` },
      )
      .not.toBe('');
    return found;
  },
  /** Waits until somebody was told in chat something that holds these words. */
  async wait(user: string, words: string): Promise<void> {
    const events = async () => json<{ content: { body: string } }[]>(`http://127.0.0.1:${env('CHAT_PORT')}/_events?user=${user}`);
    await expect
      .poll(async () => (await events()).some((e) => e.content.body.includes(words)), { message: `“${words}” in chat to ${user}` })
      .toBe(true);
  },
  /** Presses a button, or says something, in the thread that asks about a request. */
  async answer(user: string, number: string, words: string): Promise<void> {
    const base = `http://127.0.0.1:${env('CHAT_PORT')}`;
    let thread = '';
    await expect
      .poll(
        async () => {
          const events = await json<{ event_id: string; content: { body: string; 'm.relates_to'?: { event_id: string } } }[]>(
            `${base}/_events?user=${user}`,
          );
          const asked = events.findLast((e) => e.content.body.includes('approval is asked for') && e.content.body.includes(number));
          return (thread = asked?.content['m.relates_to']?.event_id ?? asked?.event_id ?? '');
        },
        { message: `a chat message to ${user} about ${number}` },
      )
      .not.toBe('');
    await fetch(`${base}/say`, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ user, thread, text: words }) });
  },
};

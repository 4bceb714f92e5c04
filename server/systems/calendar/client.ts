import { randomUUID } from 'node:crypto';
import { busyAsked, readBusy, type BusyKnown } from '../../../core/formats/index.ts';
import type { Stretch } from '../../../core/meetings/index.ts';
import { heard } from '../../../core/boundary/index.ts';
import { config } from '../../config.ts';
import { now } from '../../clock.ts';
import { callOutside, isTransient } from '../client.ts';
import { PermanentError, TransientError } from '../errors.ts';
import { ourMailbox } from '../mail/transport.ts';

/** When people (by their mail addresses) are taken within a window, as the organisation's calendars say; nobody is known where there are none. */
export async function busyTimes(people: readonly string[], window: Stretch): Promise<BusyKnown> {
  const { CALENDAR_URL: address, CALENDAR_TOKEN: token } = config();
  if (address === undefined || people.length === 0) return new Map();
  const calendars = { name: 'The calendars', address, ownNetwork: true, timeoutMs: 8000, mostBytes: 4_000_000 };
  const asked = busyAsked({ organizer: ourMailbox().address, people, window, uid: randomUUID(), stamp: now().getTime() });
  const answer = await callOutside(calendars, {
    method: 'POST',
    path: '',
    headers: { authorization: `Bearer ${token}`, accept: 'application/xml' },
    text: { type: 'text/calendar; component=VFREEBUSY; method=REQUEST; charset=utf-8', content: asked },
  });
  if (answer.status !== 200) {
    const said = `The calendars answered ${answer.status}.`;
    throw isTransient(answer.status) ? new TransientError(said) : new PermanentError(said);
  }
  try {
    return readBusy(answer.text, window);
  } catch (error) {
    throw new TransientError(`The calendars gave an answer that cannot be read. ${heard(error instanceof Error ? error.message : '', 300)}`);
  }
}

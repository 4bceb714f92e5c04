import { DateTime } from 'luxon';
import { useMemo, useState } from 'react';
import { addWorking, compileHours, dateWords, instantIn, minutesWords, type ServiceHours } from '../../core/calendar/index.ts';
import { DateField } from '~/ui/date-field';
import { useToday } from '~/ui/now';
import { Select } from '~/ui/select';
import { TimeField } from '~/ui/time-field';

const lengths = [30, 60, 120, 240, 480, 960, 1440, 2400];

/** What these hours make of a length of working time, as a sentence. */
export function HoursTester({ hours }: { hours: ServiceHours }) {
  const today = useToday();
  const [minutes, setMinutes] = useState(240);
  const [day, setDay] = useState(today);
  const [time, setTime] = useState('14:10');
  const calendar = useMemo(() => compileHours(hours), [hours]);
  return (
    <section aria-label="Try these hours" className="border-t pt-4">
      <h2 className="mb-2 font-medium">Try them</h2>
      <div className="flex flex-wrap items-center gap-2">
        <span className="w-28">
          <Select aria-label="Working time" value={String(minutes)} onValue={(v) => setMinutes(Number(v))}>
            {lengths.map((m) => (
              <option key={m} value={m}>
                {minutesWords(m)}
              </option>
            ))}
          </Select>
        </span>
        from
        <span className="w-44">
          <DateField aria-label="From the day" value={day} onValue={setDay} />
        </span>
        <TimeField aria-label="From the time" value={time} onValue={setTime} />
      </div>
      <p role="status" className="mt-2">
        {sentenceOf()}
      </p>
    </section>
  );

  function sentenceOf(): string {
    const from = instantIn(day, time, hours.zone);
    if (Number.isNaN(from.getTime())) return 'Choose a day and a time.';
    if (!calendar.everOpen) return 'It is never open, so nothing ever ends.';
    const ends = DateTime.fromISO(addWorking(from.toISOString(), minutes, calendar), { zone: hours.zone }).setLocale('en-GB');
    return `${minutesWords(minutes)} from ${DateTime.fromJSDate(from, { zone: hours.zone }).setLocale('en-GB').toFormat('cccc HH:mm')} ends ${ends.toFormat('cccc HH:mm')}, ${dateWords(ends.toISODate() ?? '')}.`;
  }
}

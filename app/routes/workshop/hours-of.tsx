import { useState } from 'react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { Form, useNavigation } from 'react-router';
import { toast } from 'sonner';
import { dateWords, dayHoursWords, readDayHours, ServiceHours, type Stretch } from '../../../core/calendar/index.ts';
import { changeHours, giveHours } from '../../../server/hours/commands.ts';
import { hoursOf } from '../../../server/hours/queries.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { HoursTester } from '~/hours/tester';
import { WeekPaint } from '~/hours/week-paint';
import { Year } from '~/hours/year';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { DateField } from '~/ui/date-field';
import { Labelled } from '~/ui/field';
import { Frame } from '~/ui/frame';
import { ListEditor } from '~/ui/list-editor';
import { useToday } from '~/ui/now';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { historyFor } from './history.server';
import { documentIn, orNotFound, posted, refused, signedIn } from '../session.server';
import { AsItWas, Versions } from '~/ui/versions';
import type { Route } from './+types/hours-of';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.definition.name ?? 'Hours'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const hours = orNotFound(await hoursOf(viewer, params.id), 'These hours');
  return { ...hours, ...(await historyFor(viewer, request, 'hours', params.id)), zones: ['utc', ...Intl.supportedValuesOf('timeZone')] };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, 1_000_000);
  if (form.get('act') === 'give') {
    const everywhere = form.get('everywhere') !== '';
    const given = await giveHours(viewer, { id: params.id, teams: form.all('team'), places: form.all('place'), everywhere });
    return given.ok ? null : refused(given, {});
  }
  const kept = await changeHours(viewer, { id: params.id, version: Number(form.get('version')), definition: documentIn(form, 'definition') });
  return kept.ok ? null : refused(kept, {});
}

export default function HoursOf({ loaderData, actionData }: Route.ComponentProps) {
  return <Editor key={`${loaderData.id} ${loaderData.version} ${loaderData.as?.version}`} loaded={loaderData} refusal={actionData?.refusal} />;
}

type Loaded = Route.ComponentProps['loaderData'];
const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

function Editor({ loaded, refusal }: { loaded: Loaded; refusal: Refusal | undefined }) {
  const [hours, setHours] = useState<ServiceHours>(loaded.as?.definition ?? loaded.definition);
  const [year, setYear] = useState(Number(useToday().slice(0, 4)));
  const post = usePost(ServiceHours, { refusal, document: hours });
  const busy = useNavigation().formMethod === 'POST';
  const changed = JSON.stringify(hours) !== JSON.stringify(loaded.definition);
  const toggle = (day: string) =>
    setHours((h) => ({
      ...h,
      holidays: h.holidays.some((x) => x.day === day)
        ? h.holidays.filter((x) => x.day !== day)
        : [...h.holidays, { day, words: '' }].toSorted((a, b) => (a.day < b.day ? -1 : 1)),
    }));
  const bringIn = async (file: File | undefined) => {
    if (!file) return;
    const { readHolidays, largestCalendar } = await import('../../../core/formats/index.ts');
    const read = readHolidays(file.size > largestCalendar * 4 ? '' : await file.text(), { from: year - 1, to: year + 10 });
    if (!read.ok) return void toast(read.sentence);
    const before = hours.holidays;
    const known = new Set(before.map((h) => h.day));
    const more = read.holidays.filter((h) => !known.has(h.day));
    setHours((h) => ({ ...h, holidays: [...h.holidays, ...more].toSorted((a, b) => (a.day < b.day ? -1 : 1)) }));
    const left = read.passedOver > 0 ? ` ${read.passedOver} that are not whole days were passed over.` : '';
    toast(`${more.length} ${more.length === 1 ? 'holiday' : 'holidays'} brought in, from ${year - 1} to ${year + 10}.${left}`, {
      action: { label: 'Undo', onClick: () => setHours((h) => ({ ...h, holidays: before })) },
    });
  };
  const ofYear = hours.holidays.filter((h) => h.day.startsWith(String(year))).toSorted((a, b) => (a.day < b.day ? -1 : 1));
  return (
    <Frame
      marginLabel="Workshop"
      margin={<WorkshopMargin at="hours" />}
      slip={
        <aside aria-label="The year" className="border-t bg-paper px-5 py-5 lg:border-t-0 lg:border-l">
          <div className="mb-3 flex items-center justify-between">
            <h2 className="font-medium">
              Holidays in <span className="numbers">{year}</span>
            </h2>
            <span className="flex">
              <Button weight="quiet" aria-label={`The year ${year - 1}`} onClick={() => setYear(year - 1)}>
                <ChevronLeft size={14} aria-hidden />
              </Button>
              <Button weight="quiet" aria-label={`The year ${year + 1}`} onClick={() => setYear(year + 1)}>
                <ChevronRight size={14} aria-hidden />
              </Button>
            </span>
          </div>
          <Year year={year} hours={hours} onToggle={toggle} />
          <p className="mt-2 mb-3 text-sm text-faint">Press a day above, or add it here: it is a holiday, and closed.</p>
          <ListEditor
            rows={ofYear}
            keyOf={(_, at) => `${year} ${at}`}
            nameOf={(h) => `the holiday ${h.words || dateWords(h.day)}`}
            addLabel="Add a holiday"
            make={() => ({ day: `${year}-01-01`, words: '' })}
            onChange={(next) => setHours({ ...hours, holidays: [...hours.holidays.filter((h) => !ofYear.includes(h)), ...next] })}
          >
            {({ row, at, set }) => (
              <div className="grid min-w-0 grow grid-cols-[10.25rem_minmax(0,1fr)] gap-1.5">
                <DateField aria-label={`Holiday ${at + 1}: the day`} value={row.day} onValue={(day) => day && set({ ...row, day })} />
                <input
                  aria-label={`Holiday ${at + 1}: what it is called`}
                  className="input"
                  maxLength={120}
                  value={row.words}
                  placeholder="what it is called"
                  onChange={(e) => set({ ...row, words: e.target.value })}
                />
              </div>
            )}
          </ListEditor>
          <label className="mt-3 block">
            <span className="block text-sm">Bring in a calendar of holidays (iCalendar, .ics)</span>
            <input
              type="file"
              accept=".ics,text/calendar"
              className="mt-1 text-sm"
              onChange={(e) => {
                void bringIn(e.target.files?.[0]);
                e.target.value = '';
              }}
            />
          </label>
        </aside>
      }
    >
      <h1 className="font-serif text-2xl">{loaded.definition.name}</h1>
      <p className="text-sm text-faint">
        Version {loaded.version}, <Time at={loaded.changedAt} relative />
        {loaded.by && ` by ${loaded.by}`}
      </p>
      <div className="mt-3">
        <Refused sentence={post.sentence} />
        <AsItWas as={loaded.as} wanted={loaded.wanted} />
      </div>
      <Form method="post" {...post.form} className="space-y-5">
        <input type="hidden" name="version" value={loaded.version} />
        <input type="hidden" name="definition" value={JSON.stringify(hours)} />
        <div className="grid max-w-2xl gap-4 sm:grid-cols-2">
          <Labelled label="Name" required problem={post.problem('name')}>
            {(ids) => (
              <input
                {...ids}
                name="name"
                className="input"
                maxLength={80}
                value={hours.name}
                onChange={(e) => setHours({ ...hours, name: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Time zone" problem={post.problem('zone')}>
            {(ids) => (
              <Select {...ids} value={hours.zone} onValue={(zone) => setHours({ ...hours, zone })}>
                {loaded.zones.map((z) => (
                  <option key={z} value={z}>
                    {z}
                  </option>
                ))}
              </Select>
            )}
          </Labelled>
        </div>
        <section aria-label="The week" className="overflow-x-auto">
          <WeekPaint week={hours.week} onChange={(week) => setHours({ ...hours, week })} />
          <p className="mt-1 text-sm text-faint">
            Draw over a line to open it, over what is open to close it. By keys: arrows, Shift and arrows for more, Space opens and closes; Ctrl goes
            by hours.
          </p>
          <div className="mt-3 grid max-w-2xl gap-x-6 gap-y-1 sm:grid-flow-col sm:grid-cols-2 sm:grid-rows-4">
            {days.map((name, n) => (
              <DayTyped
                key={name}
                name={name}
                stretches={hours.week[n] ?? []}
                onChange={(next) => setHours({ ...hours, week: hours.week.map((d, i) => (i === n ? next : d)) })}
              />
            ))}
          </div>
        </section>
        <fieldset className="max-w-2xl border-t pt-4">
          <legend className="sr-only">Days with hours of their own</legend>
          <h2 className="mb-2 font-medium">Days with hours of their own</h2>
          <ListEditor
            rows={hours.exceptions}
            keyOf={(_, at) => at}
            nameOf={(e, at) => e.words || `day ${at + 1}`}
            addLabel="Add a day"
            make={() => ({ day: `${year}-12-24`, hours: [{ from: 480, to: 720 }], words: '' })}
            onChange={(exceptions) => setHours({ ...hours, exceptions })}
          >
            {({ row, at, set }) => (
              <div className="grid min-w-0 grow gap-2 sm:grid-cols-[11rem_1fr_1fr]">
                <DateField aria-label={`Day ${at + 1}: the day`} value={row.day} onValue={(day) => set({ ...row, day })} />
                <DayTyped name={`Day ${at + 1}`} bare stretches={row.hours} onChange={(next) => set({ ...row, hours: next })} />
                <input
                  aria-label={`Day ${at + 1}: why`}
                  className="input"
                  maxLength={120}
                  placeholder="why"
                  value={row.words}
                  onChange={(e) => set({ ...row, words: e.target.value })}
                />
              </div>
            )}
          </ListEditor>
        </fieldset>
        <div className="flex items-center gap-3 border-t pt-4">
          <Button type="submit" weight="main" disabled={busy || !changed}>
            Keep these hours
          </Button>
          {changed && <Button onClick={() => setHours(loaded.definition)}>As they were</Button>}
          <p className="text-sm text-faint">{changed ? 'They count from then on; what is due already stays due then.' : 'Everything is kept.'}</p>
        </div>
      </Form>
      <div className="mt-6 max-w-2xl space-y-6">
        <HoursTester hours={hours} />
        <Whose key={`${loaded.everywhere} ${[...loaded.teams, ...loaded.places].map((x) => x.hours).join()}`} loaded={loaded} />
        <Versions versions={loaded.versions} now={loaded.version} />
      </div>
    </Frame>
  );
}

/** The hours of a day as they are typed; what is none stays typed, and says so. */
function DayTyped({
  name,
  stretches,
  bare,
  onChange,
}: {
  name: string;
  stretches: readonly Stretch[];
  bare?: boolean;
  onChange: (next: Stretch[]) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const wrong = typed !== undefined && readDayHours(typed) === undefined;
  const box = (
    <span className="min-w-0 grow">
      <input
        aria-label={`${name}: hours`}
        aria-invalid={wrong || undefined}
        className="input numbers text-sm"
        autoComplete="off"
        placeholder="such as 8-12, 13-16"
        value={typed ?? dayHoursWords(stretches)}
        onChange={(e) => {
          setTyped(e.target.value);
          const read = readDayHours(e.target.value);
          if (read) onChange(read);
        }}
        onBlur={() => !wrong && setTyped(undefined)}
      />
      {wrong && <span className="block text-sm text-coral">Write 8-12, 13-16, or closed, or round the clock.</span>}
    </span>
  );
  if (bare) return box;
  return (
    <label className="flex items-center gap-2">
      <span className="w-24 shrink-0 text-sm">{name}</span>
      {box}
    </label>
  );
}

/** Whose hours these are. */
function Whose({ loaded }: { loaded: Loaded }) {
  const [everywhere, setEverywhere] = useState(loaded.everywhere);
  const had = [...loaded.teams, ...loaded.places].flatMap((x) => (x.hours === loaded.id ? [x.id] : []));
  const [chosen, setChosen] = useState(() => new Set(had));
  const changed = everywhere !== loaded.everywhere || chosen.size !== had.length || had.some((x) => !chosen.has(x));
  const busy = useNavigation().formMethod === 'POST';
  const set = (id: string, on: boolean) => setChosen(new Set(on ? [...chosen, id] : [...chosen].filter((x) => x !== id)));
  const one = (kind: 'team' | 'place') => (x: Loaded['teams'][number]) => (
    <label key={x.id} className="flex items-center gap-2 py-0.5">
      <Checkbox name={kind} value={x.id} checked={chosen.has(x.id)} onChecked={(on) => set(x.id, on)} />
      <span>
        {x.name}
        {x.hours && x.hours !== loaded.id && <span className="text-sm text-faint"> · has {x.called}</span>}
      </span>
    </label>
  );
  return (
    <Form method="post" aria-label="Whose hours these are" className="border-t pt-4">
      <h2 className="mb-2 font-medium">Whose hours these are</h2>
      <label className="flex items-center gap-2 pb-2">
        <Checkbox name="everywhere" checked={everywhere} onChecked={setEverywhere} />
        Everybody’s who has none nearer
      </label>
      <div className="grid gap-6 sm:grid-cols-2">
        <fieldset>
          <legend className="text-sm text-faint">Teams</legend>
          {loaded.teams.map(one('team'))}
        </fieldset>
        <fieldset>
          <legend className="text-sm text-faint">Places, with all within them</legend>
          {loaded.places.map(one('place'))}
        </fieldset>
      </div>
      <div className="mt-3 flex items-center gap-3">
        <Button type="submit" name="act" value="give" disabled={busy || !changed}>
          Keep whose they are
        </Button>
        <p className="text-sm text-faint">{changed ? '' : 'This is kept.'}</p>
      </div>
    </Form>
  );
}

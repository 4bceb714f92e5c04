import type { Span } from '../../core/calendar/index.ts';
import type { Field } from '../../core/forms/index.ts';
import { isTold, moveOf, movers, statusOf, withoutStatus, wordNeeded, type Status, type StatusMap } from '../../core/statuses/index.ts';
import type { Catalogue } from '../../core/plans/index.ts';
import { tellPlaces, whoWords, type TicketKind } from '../../core/tickets/index.ts';
import type { Drafted } from '~/sheet/draft-editor';
import { plainText } from '../../core/values/index.ts';
import { TextEditor } from '~/sheet/text-editor';
import { DurationInput } from '~/sheet/duration-input';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';
import type { Chosen } from './move-grid';
import { MoveGate } from './move-gate';

/** What is chosen in the grid, described and edited in place: a move, or a status. */
export function Described({
  kind,
  chosen,
  catalogue,
  learn,
  onChange,
  onChoose,
}: {
  kind: TicketKind;
  chosen: Chosen;
  /** What gates can name. */
  catalogue: Catalogue;
  learn: Drafted['learn'];
  /** `asks`: fields that are asked of whoever reports from now on. */
  onChange: (map: StatusMap, asks?: Field[]) => void;
  onChoose: (chosen: Chosen | undefined) => void;
}) {
  const { map } = kind;
  if ('from' in chosen) return <MoveDescribed {...chosen} kind={kind} catalogue={catalogue} learn={learn} onChange={onChange} />;
  const status = statusOf(map, chosen.status);
  return status ? <StatusDescribed key={status.id} kind={kind} status={status} onChange={onChange} onGone={() => onChoose(undefined)} /> : null;
}

function MoveDescribed({
  kind,
  from,
  to,
  catalogue,
  learn,
  onChange,
}: {
  kind: TicketKind;
  from: string;
  to: string;
  catalogue: Catalogue;
  learn: Drafted['learn'];
  onChange: (map: StatusMap, asks?: Field[]) => void;
}) {
  const { map, desk: fields } = kind;
  const [a, b, move] = [statusOf(map, from), statusOf(map, to), moveOf(map, from, to)];
  if (!a || !b) return null;
  if (!move)
    return (
      <p className="text-faint">
        A ticket does not go from “{a.name}” to “{b.name}”.
      </p>
    );
  const set = (next: Partial<typeof move>) => onChange({ ...map, moves: map.moves.map((m) => (m === move ? { ...m, ...next } : m)) });
  const turned = <T,>(list: readonly T[], one: T, on: boolean): T[] => (on ? [...list, one] : list.filter((x) => x !== one));
  return (
    <section aria-label={`${a.name} to ${b.name}`}>
      <h2 className="mb-2 font-medium">
        {a.name} → {b.name}
      </h2>
      <dl className="grid gap-x-6 gap-y-2 sm:grid-cols-[150px_minmax(0,1fr)]">
        <dt className="text-faint">Who may move it</dt>
        <dd className="flex flex-wrap gap-x-5 gap-y-1">
          {movers.map((w) => (
            <label key={w} className="flex items-center gap-2">
              <Checkbox checked={move.who.includes(w)} onChecked={(on) => set({ who: turned(move.who, w, on) })} /> {whoWords[w]}
            </label>
          ))}
        </dd>
        <dt className="text-faint">Must be filled</dt>
        <dd className="flex flex-wrap gap-x-5 gap-y-1">
          <label className="flex items-center gap-2">
            <Checkbox checked={move.needs.includes(wordNeeded)} onChecked={(on) => set({ needs: turned(move.needs, wordNeeded, on) })} /> a word to
            the requester
          </label>
          {fields.map((f) => (
            <label key={f.id} className="flex items-center gap-2">
              <Checkbox checked={move.needs.includes(f.id)} onChecked={(on) => set({ needs: turned(move.needs, f.id, on) })} />{' '}
              {f.label || 'a field without words'}
            </label>
          ))}
        </dd>
        <dt className="text-faint">Who agrees first</dt>
        <dd>
          <MoveGate
            key={`${from} ${to}`}
            kind={kind}
            gate={move.gate}
            catalogue={catalogue}
            learn={learn}
            onChange={(gate, asks) => {
              const { gate: _, ...without } = move;
              onChange({ ...map, moves: map.moves.map((m) => (m === move ? { ...without, ...(gate && { gate }) } : m)) }, asks);
            }}
          />
        </dd>
        <dt className="text-faint">When it arrives</dt>
        <dd>{isTold(b) ? `The requester is told: “${toldWords(kind, b)}”` : 'Nothing more is told than what is written.'}</dd>
      </dl>
    </section>
  );
}

/** What a status tells, with its values by what they are called. */
const toldWords = (kind: TicketKind, status: Status): string =>
  plainText(status.tells, (ref) => tellPlaces(kind).find((p) => p.ref === ref)?.label ?? 'a value that is not there any more');

const fiveDays: Span = { length: 'P5D', counted: 'working' };

function StatusDescribed({
  kind,
  status,
  onChange,
  onGone,
}: {
  kind: TicketKind;
  status: Status;
  onChange: (map: StatusMap) => void;
  onGone: () => void;
}) {
  const { map } = kind;
  const places = tellPlaces(kind);
  const others = map.statuses.filter((s) => s.id !== status.id);
  const set = ({
    answered,
    passes,
    ...next
  }: Omit<Partial<Status>, 'answered' | 'passes'> & { answered?: string | null; passes?: Status['passes'] | null }) =>
    onChange({
      ...map,
      statuses: map.statuses.map((s) => {
        if (s.id !== status.id) return s;
        const { answered: wasAnswered, passes: wasPasses, ...rest } = s;
        const [to, after] = [answered === undefined ? wasAnswered : answered, passes === undefined ? wasPasses : passes];
        return { ...rest, ...next, ...(to && { answered: to }), ...(after && { passes: after }) };
      }),
    });
  return (
    <section aria-label={status.name} className="max-w-2xl space-y-3">
      <h2 className="font-medium">{status.name}</h2>
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled label="Name">
          {(ids) => <input {...ids} className="input" maxLength={40} value={status.name} onChange={(e) => set({ name: e.target.value })} />}
        </Labelled>
        <Labelled label="What the requester is told when a ticket comes here" help="Nothing: they are told nothing.">
          {({ id }) => (
            <TextEditor
              id={id}
              label="What the requester is told when a ticket comes here"
              value={status.tells}
              places={places}
              manner="line"
              onChange={(tells) => set({ tells: plainText(tells, () => '…').trim() === '' ? [] : tells })}
            />
          )}
        </Labelled>
        <Labelled label="A word of the requester moves it to">
          {(ids) => (
            <Select {...ids} value={status.answered ?? ''} onValue={(v) => set({ answered: v || null })}>
              <option value="">it stays</option>
              {others.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="By itself, after a time, to">
          {(ids) => (
            <Select
              {...ids}
              value={status.passes?.to ?? ''}
              onValue={(to) => set({ passes: to ? { after: status.passes?.after ?? fiveDays, to } : null })}
            >
              <option value="">it stays</option>
              {others.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        {status.passes && (
          <Labelled label="After so much working time">
            {({ id }) => (
              <DurationInput
                id={id}
                label="After so much working time"
                iso={status.passes!.after.length}
                min={1}
                onChange={(length) => set({ passes: { ...status.passes!, after: { length, counted: 'working' } } })}
              />
            )}
          </Labelled>
        )}
      </div>
      <div className="flex flex-wrap gap-2">
        {map.begin !== status.id && <Button onClick={() => onChange({ ...map, begin: status.id })}>Let tickets begin here</Button>}
        {others.length > 0 && (
          <Button
            weight="decline"
            onClick={() => {
              onChange(withoutStatus(map, status.id));
              onGone();
            }}
          >
            Take “{status.name}” away
          </Button>
        )}
      </div>
    </section>
  );
}

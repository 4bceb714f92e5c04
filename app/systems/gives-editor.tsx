import type { WebAction } from '../../core/systems/index.ts';
import { Line } from '~/ui/line';
import { Select } from '~/ui/select';

/** What a person holds once it is done: it stands in the Ledger under Holdings, and with them under My things. */
export function GivesEditor({
  named,
  action: a,
  onChange,
}: {
  named: (field: string) => { name: string; problem: string | undefined };
  action: WebAction;
  onChange: (gives: WebAction['gives']) => void;
}) {
  const what = a.label || 'this action';
  const people = a.inputs.filter((i) => i.type === 'person');
  const things = [...a.outputs, ...a.inputs.filter((i) => i.type !== 'person')];
  const days = [...a.outputs, ...a.inputs].filter((s) => s.type === 'date');
  const { gives } = a;
  const person = people[0];
  const thing = things[0];
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <Select
        className="w-auto!"
        aria-label={`Who holds something after ${what}`}
        value={gives?.person ?? ''}
        onValue={(v) => onChange(v ? { kind: gives?.kind ?? '', person: v, what: gives?.what ?? thing?.name ?? '' } : undefined)}
        disabled={!gives && (!person || !thing)}
      >
        <option value="">Nobody holds anything afterwards</option>
        {people.map((i) => (
          <option key={i.name} value={i.name}>
            Whoever “{i.label || i.name}” names holds
          </option>
        ))}
      </Select>
      {gives && (
        <>
          <Line
            {...named('gives.kind')}
            label={`Kind of thing after ${what}`}
            placeholder="machine"
            value={gives.kind}
            maxLength={40}
            onChange={(e) => onChange({ ...gives, kind: e.target.value })}
          />
          <Select className="w-auto!" aria-label={`Which thing after ${what}`} value={gives.what} onValue={(v) => onChange({ ...gives, what: v })}>
            {things.map((t) => (
              <option key={t.name} value={t.name}>
                {t.label || t.name}
              </option>
            ))}
          </Select>
          {days.length > 0 && (
            <Select
              className="w-auto!"
              aria-label={`Until when it is lent after ${what}`}
              value={gives.until ?? ''}
              onValue={(v) => onChange({ ...gives, until: v || undefined })}
            >
              <option value="">for good</option>
              {days.map((d) => (
                <option key={d.name} value={d.name}>
                  until “{d.label || d.name}”
                </option>
              ))}
            </Select>
          )}
        </>
      )}
    </div>
  );
}

import type { ReactNode } from 'react';
import type { AudienceLine, OnBehalf } from '../../core/items/index.ts';
import { useEditor, useStated } from '~/sheet/draft-editor';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { Picker } from '~/ui/picker';
import { Select } from '~/ui/select';

/** Who may ask for an item, and who may do so for others. */
export function AudienceEditor() {
  const { draft, change } = useEditor();
  const { audience, onBehalf } = draft;
  const setOnBehalf = (next: OnBehalf | undefined) => change({ ...draft, onBehalf: next }, 'Change who may ask for others');
  return (
    <fieldset className="space-y-4 border-t pt-4">
      <Labelled label="Who may ask" help="Others do not find it at the Counter.">
        {(ids) => (
          <Select
            {...ids}
            value={audience ? 'some' : 'everyone'}
            onValue={(v) => change({ ...draft, audience: v === 'some' ? (audience ?? [{}]) : undefined }, 'Change who may ask')}
          >
            <option value="everyone">Everyone</option>
            <option value="some">Only these</option>
          </Select>
        )}
      </Labelled>
      {audience && (
        <Lines of="who may ask" add="Add others" lines={audience} onChange={(next) => change({ ...draft, audience: next }, 'Change who may ask')} />
      )}
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={onBehalf !== undefined} onChecked={(on) => setOnBehalf(on ? { managers: true, by: [] } : undefined)} />
        <span>
          Can be asked for on behalf of others
          <span className="block text-sm text-faint">Whoever it is for has to be one of those who may ask, and follows it too.</span>
        </span>
      </label>
      {onBehalf && (
        <div className="ml-6 space-y-3">
          <label className="flex items-center gap-2">
            <Checkbox checked={onBehalf.managers} onChecked={(managers) => setOnBehalf({ ...onBehalf, managers })} />
            By managers, for the people they lead
          </label>
          <p className="text-sm text-faint">For anybody, by:</p>
          <Lines
            of="who may ask for others"
            add="Add somebody who may ask for anybody"
            lines={onBehalf.by}
            onChange={(by) => setOnBehalf({ ...onBehalf, by })}
          />
        </div>
      )}
      <label className="flex gap-2">
        <Checkbox
          className="mt-0.5"
          checked={draft.outsiders === true}
          onChecked={(on) => change({ ...draft, outsiders: on || undefined }, 'Change who may ask from outside')}
        />
        <span>
          Can be asked for from outside, by a public link
          <span className="block text-sm text-faint">
            Without a sign-in, once they have confirmed by mail. The link is made where it is published.
          </span>
        </span>
      </label>
    </fieldset>
  );
}

function Lines({ of, add, lines, onChange }: { of: string; add: string; lines: AudienceLine[]; onChange: (lines: AudienceLine[]) => void }) {
  return (
    <ListEditor
      rows={lines}
      keyOf={(_, at) => at}
      nameOf={(_, at) => `line ${at + 1} of ${of}`}
      addLabel={add}
      make={(): AudienceLine => ({})}
      onChange={onChange}
      ruled
    >
      {({ row, at, set }) => <Line line={row} at={at} of={of} onChange={set} />}
    </ListEditor>
  );
}

/** Those of whom all that is stated here is true. */
function Line({ line, at, of, onChange }: { line: AudienceLine; at: number; of: string; onChange: (line: AudienceLine) => void }) {
  const { nameOf, learn } = useStated();
  const label = (what: string) => `Line ${at + 1}: ${what}`;
  const called = (kind: 'location' | 'group' | 'person') => {
    const [id] = Object.values(line[kind] ?? {});
    return id === undefined ? undefined : { id, name: nameOf(kind, id) ?? 'somebody or something that is not known any more' };
  };
  return (
    <div role="group" aria-label={label(of)} className="grid min-w-0 grow grid-cols-[6rem_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5">
      {(['department', 'job'] as const).map((fact) => {
        const stated = line[fact];
        return (
          <Fact key={fact} words={fact}>
            <Picker
              aria-label={label(fact)}
              kind={fact}
              chosen={stated === undefined ? undefined : { id: stated, name: stated }}
              onChoose={(c) => onChange({ ...line, [fact]: c?.id })}
            />
          </Fact>
        );
      })}
      {(['location', 'group', 'person'] as const).map((kind) => (
        <Fact key={kind} words={kind === 'location' ? 'place' : kind}>
          <Picker
            aria-label={label(kind === 'location' ? 'place' : kind)}
            kind={kind}
            chosen={called(kind)}
            onChoose={(c) => {
              if (c) learn(c.id, c.name, kind);
              onChange({ ...line, [kind]: c && { [kind]: c.id } });
            }}
          />
        </Fact>
      ))}
    </div>
  );
}

const Fact = ({ words, children }: { words: string; children: ReactNode }) => (
  <>
    <span className="text-faint">{words}</span>
    {children}
  </>
);

import type { ReactNode } from 'react';
import type { AudienceLine } from '../../core/items/index.ts';
import { useEditor, useStated } from '~/sheet/draft-editor';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { Picker } from '~/ui/picker';
import { Select } from '~/ui/select';

/** Who may ask for an item: everyone, or whoever one of some lines is true of. */
export function AudienceEditor() {
  const { draft, change } = useEditor();
  const { audience } = draft;
  const set = (next: AudienceLine[] | undefined) => change({ ...draft, audience: next }, 'Change who may ask');
  return (
    <fieldset className="border-t pt-4">
      <Labelled label="Who may ask" help="Others do not find it at the Counter.">
        {(ids) => (
          <Select {...ids} value={audience ? 'some' : 'everyone'} onValue={(v) => set(v === 'some' ? (audience ?? [{}]) : undefined)}>
            <option value="everyone">Everyone</option>
            <option value="some">Only these</option>
          </Select>
        )}
      </Labelled>
      {audience && (
        <div className="mt-3">
          <ListEditor
            rows={audience}
            keyOf={(_, at) => at}
            nameOf={(_, at) => `line ${at + 1} of who may ask`}
            addLabel="Add others"
            make={(): AudienceLine => ({})}
            onChange={set}
            ruled
          >
            {({ row, at, set: setLine }) => <Line line={row} at={at} onChange={setLine} />}
          </ListEditor>
        </div>
      )}
    </fieldset>
  );
}

/** Those of whom all that is stated here is true. */
function Line({ line, at, onChange }: { line: AudienceLine; at: number; onChange: (line: AudienceLine) => void }) {
  const { nameOf, learn } = useStated();
  const label = (what: string) => `Line ${at + 1}: ${what}`;
  const called = (kind: 'location' | 'group' | 'person') => {
    const [id] = Object.values(line[kind] ?? {});
    return id === undefined ? undefined : { id, name: nameOf(kind, id) ?? 'somebody or something that is not known any more' };
  };
  return (
    <div role="group" aria-label={label('who may ask')} className="grid min-w-0 grow grid-cols-[6rem_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5">
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

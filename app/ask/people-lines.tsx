import type { ReactNode } from 'react';
import type { AudienceLine } from '../../core/items/index.ts';
import { ListEditor } from '~/ui/list-editor';
import { Picker } from '~/ui/picker';

/** What is called how by its id, and how a new name is remembered. */
interface Names {
  nameOf: (kind: 'location' | 'group' | 'person', id: string) => string | undefined;
  learn: (id: string, name: string, kind: 'location' | 'group' | 'person') => void;
}

/** Whom lines are about: everybody of whom all is true that one of them says. */
export function PeopleLines({
  of,
  add,
  lines,
  names,
  onChange,
}: {
  /** What they say, as in “line 1 of who may ask”. */
  of: string;
  add: string;
  lines: AudienceLine[];
  names: Names;
  onChange: (lines: AudienceLine[]) => void;
}) {
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
      {({ row, at, set }) => <Line line={row} at={at} of={of} names={names} onChange={set} />}
    </ListEditor>
  );
}

/** Those of whom all that is stated here is true. */
function Line({
  line,
  at,
  of,
  names: { nameOf, learn },
  onChange,
}: {
  line: AudienceLine;
  at: number;
  of: string;
  names: Names;
  onChange: (line: AudienceLine) => void;
}) {
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

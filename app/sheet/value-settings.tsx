import { useRef } from 'react';
import { readExpression } from '../../core/expressions/index.ts';
import type { Find, Lookup, Place, WorkOut } from '../../core/plans/index.ts';
import { typeWords, type ValueType } from '../../core/values/index.ts';
import { Labelled } from '~/ui/field';
import { WholeNumber } from '~/ui/whole-number';
import { useEditor } from './draft-editor';
import { TeamOptions } from './team-options';
import { PlaceSelect } from './place-select';
import type { Edit } from './step-slip';

/** Whom to look up; as of the moment the step runs. */
export function FindSettings({ step, places, onEdit }: { step: Find; places: Place[]; onEdit: Edit }) {
  const { catalogue } = useEditor();
  const l = step.lookup;
  const set = (lookup: Lookup | undefined) => onEdit({ ...step, lookup }, 'what is looked up');
  const begin = (find: string) => {
    const group = places.find((p) => p.type === 'group')?.ref;
    const team = Object.keys(catalogue.teams ?? {})[0];
    if (find === 'managerOf' || find === 'reportsOf') set({ find, person: { ref: 'request.requester' } });
    else if ((find === 'ownersOf' || find === 'membersOf') && group) set({ find, group: { ref: group } });
    else set(find === 'teamMembers' && team ? { find, team } : undefined);
  };
  return (
    <Labelled label="Look up" help="One person may not be found; a list may be empty.">
      {(ids) => (
        <div className="space-y-2">
          <select {...ids} className="input" value={l?.find ?? ''} onChange={(e) => begin(e.target.value)}>
            <option value="">Choose …</option>
            <option value="managerOf">The manager of a person</option>
            <option value="reportsOf">Everyone whose manager a person is</option>
            <option value="ownersOf">The owners of a group</option>
            <option value="membersOf">The members of a group</option>
            <option value="teamMembers">The members of a team</option>
          </select>
          {l && 'person' in l && (
            <PlaceSelect
              aria-label="Which person"
              places={places}
              types={['person']}
              value={l.person.ref}
              onChange={(ref) => ref && set({ ...l, person: { ref } })}
            />
          )}
          {l?.find === 'managerOf' && <WholeNumber before="Levels up" max={10} value={l.levels ?? 1} onChange={(levels) => set({ ...l, levels })} />}
          {l && 'group' in l && (
            <PlaceSelect
              aria-label="Which group"
              places={places}
              types={['group']}
              value={l.group.ref}
              onChange={(ref) => ref && set({ ...l, group: { ref } })}
            />
          )}
          {l?.find === 'teamMembers' && (
            <select className="input" aria-label="Which team" value={l.team} onChange={(e) => set({ find: 'teamMembers', team: e.target.value })}>
              <TeamOptions />
            </select>
          )}
        </div>
      )}
    </Labelled>
  );
}

const results: ValueType[] = ['number', 'text', 'boolean', 'date', 'instant', 'person', 'texts', 'people'];

/** A value computed from others, in FEEL; values are picked into it. */
export function WorkOutSettings({ step, places, onEdit }: { step: WorkOut; places: Place[]; onEdit: Edit }) {
  const area = useRef<HTMLTextAreaElement>(null);
  const parsed = readExpression(step.feel);
  const insert = (ref: string) => {
    const box = area.current;
    const [from, to] = [box?.selectionStart ?? step.feel.length, box?.selectionEnd ?? step.feel.length];
    onEdit({ ...step, feel: step.feel.slice(0, from) + ref + step.feel.slice(to) }, 'the expression');
    requestAnimationFrame(() => {
      box?.focus();
      box?.setSelectionRange(from + ref.length, from + ref.length);
    });
  };
  const names = parsed.ok ? parsed.refs.map((ref) => places.find((p) => p.ref === ref)?.label ?? 'a value that does not exist') : [];
  return (
    <>
      <Labelled
        label="Expression (FEEL)"
        help="The language of the DMN standard. Dates are read with date(…)."
        problem={parsed.ok || !step.feel.trim() ? undefined : parsed.sentence}
      >
        {(ids) => (
          <textarea
            {...ids}
            ref={area}
            className="input numbers"
            rows={4}
            spellCheck={false}
            value={step.feel}
            maxLength={2000}
            onChange={(e) => onEdit({ ...step, feel: e.target.value }, 'the expression')}
          />
        )}
      </Labelled>
      {names.length > 0 && <p className="-mt-3 text-sm text-faint">Reads {names.join(', ')}.</p>}
      <PlaceSelect
        aria-label="Insert a value into the expression"
        places={places.filter((p) => !p.secret)}
        value={undefined}
        empty="Insert a value …"
        onChange={(ref) => ref && insert(ref)}
      />
      <Labelled label="The result is a">
        {(ids) => (
          <select
            {...ids}
            className="input"
            value={step.type}
            onChange={(e) => onEdit({ ...step, type: e.target.value as ValueType }, 'the type of its result')}
          >
            {results.map((t) => (
              <option key={t} value={t}>
                {typeWords[t]}
              </option>
            ))}
          </select>
        )}
      </Labelled>
    </>
  );
}

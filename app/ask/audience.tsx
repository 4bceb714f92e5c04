import type { OnBehalf } from '../../core/items/index.ts';
import { useEditor, useStated } from '~/sheet/draft-editor';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';
import { PeopleLines } from './people-lines';

/** Who may ask for an item, and who may do so for others. */
export function AudienceEditor() {
  const { draft, change } = useEditor();
  const { audience, onBehalf } = draft;
  const names = useStated();
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
        <PeopleLines
          names={names}
          of="who may ask"
          add="Add others"
          lines={audience}
          onChange={(next) => change({ ...draft, audience: next }, 'Change who may ask')}
        />
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
          <PeopleLines
            names={names}
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

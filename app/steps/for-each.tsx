import type { ForEach } from '../../core/plans/index.ts';
import { listTypes } from '../../core/values/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import type { SettingsProps, StepLook } from './look';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

function ForEachSettings({ step, places, onEdit }: SettingsProps<ForEach>) {
  const how = step.atOnce === undefined ? 'all' : step.atOnce === 1 ? 'order' : 'some';
  return (
    <>
      <Labelled label="List" help="Read when the step begins. Inside, the row is a value of its own.">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={listTypes}
            value={step.list?.ref}
            onChange={(ref) => onEdit({ ...step, list: ref ? { ref } : undefined }, 'the list')}
          />
        )}
      </Labelled>
      <Labelled label="Rounds">
        {(ids) => (
          <div className="flex gap-2">
            <Select
              {...ids}
              value={how}
              onValue={(v) => onEdit({ ...step, atOnce: v === 'all' ? undefined : v === 'order' ? 1 : 3 }, 'how many rounds at once')}
            >
              <option value="all">All at once</option>
              <option value="some">Up to so many at once</option>
              <option value="order">One after another</option>
            </Select>
            {how === 'some' && (
              <NumberField
                aria-label="How many at once"
                min={2}
                max={100}
                value={step.atOnce}
                onValue={(atOnce) => onEdit({ ...step, atOnce }, 'how many rounds at once')}
              />
            )}
          </div>
        )}
      </Labelled>
    </>
  );
}

export const forEach: StepLook<ForEach> = { Settings: ForEachSettings, shape: 'holds' };

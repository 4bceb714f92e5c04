import type { Pause } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { SpanInput } from '~/sheet/duration-input';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

const span = { length: 'P1D', counted: 'working' as const };

function PauseSettings({ step, places, onEdit }: SettingsProps<Pause>) {
  const { until } = step;
  return (
    <Labelled label="Until">
      {(ids) => (
        <div className="space-y-2">
          <Select
            {...ids}
            value={!until ? '' : 'span' in until ? 'span' : 'date'}
            onValue={(v) => {
              const date = places.find((p) => p.type === 'date')?.ref ?? 'request.opened';
              onEdit({ ...step, until: v === 'span' ? { span } : v === 'date' ? { date: { ref: date } } : undefined }, 'how long it lasts');
            }}
          >
            <option value="">Choose …</option>
            <option value="span">A length of time has passed</option>
            <option value="date">The desk opens on a date</option>
          </Select>
          {until && 'span' in until && (
            <SpanInput label="Length" span={until.span} onChange={(s) => onEdit({ ...step, until: { span: s } }, 'how long it lasts')} />
          )}
          {until && 'date' in until && (
            <PlaceSelect
              aria-label="Which date"
              places={places}
              types={['date', 'instant']}
              value={until.date.ref}
              onChange={(ref) => ref && onEdit({ ...step, until: { date: { ref } } }, 'how long it lasts')}
            />
          )}
        </div>
      )}
    </Labelled>
  );
}

export const pause: StepLook<Pause> = { Settings: PauseSettings, shape: 'wait' };

import type { Pause } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { SpanInput } from '~/sheet/duration-input';
import { UntilChosen } from '~/sheet/until-chosen';
import { useChosenKind } from '~/sheet/use-chosen-kind';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

const span = { length: 'P1D', counted: 'working' as const };

function PauseSettings({ step, places, onEdit }: SettingsProps<Pause>) {
  const { until } = step;
  const { kind, choose, waits } = useChosenKind(!until ? '' : 'span' in until ? 'span' : 'date');
  return (
    <Labelled label="Until">
      {(ids) => (
        <div className="space-y-2">
          <Select
            {...ids}
            value={kind}
            onValue={(v) => {
              choose(v);
              if (v !== 'date') onEdit({ ...step, until: v === 'span' ? { span } : undefined }, 'how long it lasts');
            }}
          >
            <option value="">Choose …</option>
            <option value="span">A length of time has passed</option>
            <option value="date">The desk opens on a date</option>
          </Select>
          {kind === 'span' && until && 'span' in until && (
            <SpanInput label="Length" span={until.span} onChange={(s) => onEdit({ ...step, until: { span: s } }, 'how long it lasts')} />
          )}
          {kind === 'date' && (
            <PlaceSelect
              aria-label="Which date"
              places={places}
              types={['date', 'instant']}
              value={until && 'date' in until ? until.date.ref : undefined}
              onChange={(ref) => ref && onEdit({ ...step, until: { date: { ref } } }, 'how long it lasts')}
            />
          )}
          {waits && <UntilChosen stands={until !== undefined} />}
        </div>
      )}
    </Labelled>
  );
}

export const pause: StepLook<Pause> = { Settings: PauseSettings, shape: 'wait' };

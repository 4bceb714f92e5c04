import { useId } from 'react';
import type { Invite } from '../../core/plans/index.ts';
import { DurationInput, Optional } from '~/sheet/duration-input';
import { PassagesEditor } from '~/sheet/passages-editor';
import { PlaceSelect } from '~/sheet/place-select';
import { TextEditor } from '~/sheet/text-editor';
import { WordsPreview } from '~/sheet/words-preview';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import type { SettingsProps, StepLook } from './look';

/** Who meets, when a time is looked for, what they are told, and whether the plan waits for what they say. */
function InviteSettings({ step, places, onEdit }: SettingsProps<Invite>) {
  const id = useId();
  const open = places.filter((p) => !p.secret);
  const people = places.filter((p) => p.type === 'person' || p.type === 'people');
  const words = (label: string, value: Invite['title'], onChange: (text: Invite['title']) => void) => (
    <div>
      <p className="mb-1 font-medium">{label}</p>
      <TextEditor id={`${id}-${label}`} label={label} manner="line" value={value} places={open} onChange={onChange} />
    </div>
  );
  const number = (label: string, { min, max, after }: { min: number; max: number; after: string }, value: number, onChange: (n: number) => void) => (
    <Labelled label={label}>
      {(ids) => <NumberField {...ids} width="w-24" min={min} max={max} value={value} after={after} onValue={(n) => n !== undefined && onChange(n)} />}
    </Labelled>
  );
  return (
    <>
      <div role="group" aria-labelledby={`${id}-who`}>
        <p id={`${id}-who`} className="font-medium">
          Who is invited
        </p>
        <ListEditor
          rows={step.who}
          keyOf={(_, at) => at}
          nameOf={(w) => places.find((p) => p.ref === w.ref)?.label ?? 'this one'}
          addLabel="Invite someone"
          make={() => ({ ref: people.find((p) => step.who.every((w) => w.ref !== p.ref))?.ref ?? people[0]?.ref ?? '' })}
          onAdd={({ ref }) => ref !== '' && onEdit({ ...step, who: [...step.who, { ref }] }, 'someone invited')}
          onChange={(who) => onEdit({ ...step, who }, 'who is invited')}
        >
          {({ row: w, at, set }) => (
            <PlaceSelect aria-label={`Invited ${at + 1}`} places={people} value={w.ref} onChange={(ref) => ref && set({ ref })} />
          )}
        </ListEditor>
      </div>
      {words('Title', step.title, (title) => onEdit({ ...step, title }, 'the title'))}
      {words('Place', step.place ?? [], (place) => onEdit({ ...step, place }, 'the place'))}
      <Labelled label="From" help="The first time is taken at which everybody works and is free, from this date or time on.">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={['date', 'instant']}
            value={step.from?.ref}
            empty="When the step begins"
            onChange={(ref) => onEdit({ ...step, from: ref ? { ref } : undefined }, 'from when on')}
          />
        )}
      </Labelled>
      {number('Looked for on', { min: 1, max: 60, after: 'working days in a row' }, step.within, (within) =>
        onEdit({ ...step, within }, 'on how many days a time is looked for'),
      )}
      {number('Takes', { min: 15, max: 480, after: 'minutes' }, step.minutes, (minutes) => onEdit({ ...step, minutes }, 'how long it takes'))}
      <Optional
        label="They are told some working time before"
        value={step.notice}
        start="PT4H"
        onChange={(notice) => onEdit({ ...step, notice }, 'how long before they are told')}
      >
        {(notice) => (
          <DurationInput
            label="Told before"
            iso={notice}
            min={1}
            onChange={(next) => onEdit({ ...step, notice: next }, 'how long before they are told')}
          />
        )}
      </Optional>
      <PassagesEditor label="Words" value={step.body} places={places} onChange={(body) => onEdit({ ...step, body }, 'the words')} />
      <Optional
        label="Wait until everybody has answered"
        help="Or until it begins. Without it the plan goes on as soon as they are invited."
        value={step.waits}
        start={{ again: 1 }}
        onChange={(waits) => onEdit({ ...step, waits }, 'whether it waits')}
      >
        {(waits) =>
          number('Another time, where somebody cannot come', { min: 0, max: 5, after: 'times at most' }, waits.again, (again) =>
            onEdit({ ...step, waits: { again } }, 'how often another time is looked for'),
          )
        }
      </Optional>
      <WordsPreview subject={step.title} body={step.body} places={places} />
    </>
  );
}

export const invite: StepLook<Invite> = { Settings: InviteSettings, shape: 'meeting' };

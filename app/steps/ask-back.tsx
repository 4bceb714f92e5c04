import type { AskBack } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from '~/sheet/place-select';
import { RemindersSetting } from '~/sheet/reminders-setting';
import { SmallFields } from '~/sheet/small-fields';
import { TextEditor } from '~/sheet/text-editor';
import { useId } from 'react';
import type { SettingsProps, StepLook } from './look';

/** What the requester is asked; the clock is held until the answer is there. */
function AskBackSettings({ step, places, onEdit }: SettingsProps<AskBack>) {
  const id = useId();
  return (
    <>
      <div>
        <p className="mb-1 font-medium">Question</p>
        <TextEditor
          id={id}
          label="Question"
          manner="plain"
          value={step.question}
          places={places}
          onChange={(question) => onEdit({ ...step, question }, 'the question')}
        />
      </div>
      <SmallFields label="The answer" fields={step.fields} onChange={(fields) => onEdit({ ...step, fields }, 'the answer')} />
      <Labelled label="Whom" help="The requester, where nothing is picked.">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={['person']}
            empty="The requester"
            value={step.to?.ref}
            onChange={(ref) => onEdit({ ...step, to: ref ? { ref } : undefined }, 'whom to ask')}
          />
        )}
      </Labelled>
      <RemindersSetting label="Remind" value={step.reminders} onChange={(reminders) => onEdit({ ...step, reminders }, 'the reminders')} />
    </>
  );
}

export const askBack: StepLook<AskBack> = { Settings: AskBackSettings, shape: 'question' };

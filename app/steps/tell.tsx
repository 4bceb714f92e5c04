import { Labelled } from '~/ui/field';
import { PassagesEditor } from '~/sheet/passages-editor';
import { PlaceSelect } from '~/sheet/place-select';
import type { Tell } from '../../core/plans/index.ts';
import { TextEditor } from '~/sheet/text-editor';
import { WordsPreview } from '~/sheet/words-preview';
import { useId } from 'react';
import type { SettingsProps, StepLook } from './look';
import { Select } from '~/ui/select';

/** Whom to tell, and the words, with values picked into them. */
function TellSettings({ step, places, onEdit }: SettingsProps<Tell>) {
  const id = useId();
  return (
    <>
      <Labelled label="To">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={['person', 'people']}
            value={step.to?.ref}
            onChange={(ref) => onEdit({ ...step, to: ref ? { ref } : undefined }, 'whom to tell')}
          />
        )}
      </Labelled>
      <Labelled label="By">
        {(ids) => (
          <Select {...ids} value={step.by ?? 'mail'} onValue={(v) => onEdit({ ...step, by: v as 'mail' | 'chat' }, 'how to tell')}>
            <option value="mail">Mail</option>
            <option value="chat">Chat</option>
          </Select>
        )}
      </Labelled>
      <div>
        <p className="mb-1 font-medium">Subject</p>
        <TextEditor
          id={`${id}-subject`}
          label="Subject"
          manner="line"
          value={step.subject}
          places={places.filter((p) => !p.secret)}
          onChange={(subject) => onEdit({ ...step, subject }, 'the subject')}
        />
      </div>
      <PassagesEditor label="Message" value={step.body} places={places} onChange={(body) => onEdit({ ...step, body }, 'the message')} />
      <WordsPreview subject={step.subject} body={step.body} places={places} />
    </>
  );
}

export const tell: StepLook<Tell> = { Settings: TellSettings, shape: 'message' };

import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
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
  const files = places.filter((p) => p.type === 'file' || p.type === 'files');
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
      <div role="group" aria-labelledby={`${id}-attached`}>
        <p id={`${id}-attached`} className="font-medium">
          Files that go with it
        </p>
        {files.length === 0 && !step.attaches ? (
          <p className="text-sm text-faint">There are none at this point: a form asks for files, and Write makes letters.</p>
        ) : (
          <ListEditor
            rows={step.attaches ?? []}
            keyOf={(_, at) => at}
            nameOf={(a) => places.find((p) => p.ref === a.ref)?.label ?? 'this file'}
            addLabel="Add a file"
            make={() => ({ ref: files.find((p) => step.attaches?.every((a) => a.ref !== p.ref) ?? true)?.ref ?? files[0]?.ref ?? '' })}
            onAdd={({ ref }) => ref !== '' && onEdit({ ...step, attaches: [...(step.attaches ?? []), { ref }] }, 'a file that goes with it')}
            onChange={(all) => onEdit({ ...step, attaches: all.length > 0 ? all : undefined }, 'the files that go with it')}
          >
            {({ row: a, at, set }) => (
              <PlaceSelect aria-label={`File ${at + 1}`} places={files} value={a.ref} onChange={(ref) => ref && set({ ref })} />
            )}
          </ListEditor>
        )}
      </div>
      <WordsPreview subject={step.subject} body={step.body} places={places} />
    </>
  );
}

export const tell: StepLook<Tell> = { Settings: TellSettings, shape: 'message' };

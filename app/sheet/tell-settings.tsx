import { useId } from 'react';
import type { Place, Tell } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { PlaceSelect } from './place-select';
import type { Edit } from './step-slip';
import { TextEditor } from './text-editor';

/** Whom to tell, and the words, with values picked into them. */
export function TellSettings({ step, places, onEdit }: { step: Tell; places: Place[]; onEdit: Edit }) {
  const id = useId();
  return (
    <>
      <Labelled label="To" help="Goes by mail.">
        {(ids) => (
          <PlaceSelect
            {...ids}
            places={places}
            types={['person']}
            value={step.to?.ref}
            onChange={(ref) => onEdit({ ...step, to: ref ? { ref } : undefined }, 'whom to tell')}
          />
        )}
      </Labelled>
      <div>
        <p className="mb-1 font-medium">Subject</p>
        <TextEditor
          id={`${id}-subject`}
          label="Subject"
          lines="one"
          value={step.subject}
          places={places}
          onChange={(subject) => onEdit({ ...step, subject }, 'the subject')}
        />
      </div>
      <div>
        <p className="mb-1 font-medium">Message</p>
        <TextEditor
          id={`${id}-body`}
          label="Message"
          lines="many"
          value={step.body}
          places={places}
          onChange={(body) => onEdit({ ...step, body }, 'the message')}
        />
      </div>
    </>
  );
}

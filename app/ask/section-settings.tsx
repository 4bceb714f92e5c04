import type { FormSection } from '../../core/forms/index.ts';
import { TextEditor } from '~/sheet/text-editor';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { NameField } from '~/ui/name-field';

/** A section of a form: its title, a note to the reader, and how the fields under it stand. */
export function SectionSettings({
  section,
  isNew,
  onChange,
}: {
  section: FormSection;
  isNew: boolean;
  onChange: (section: FormSection, what: string) => void;
}) {
  return (
    <div className="space-y-5">
      <h2 className="font-serif text-xl">Section or note</h2>
      <Labelled label="Title" help="Left empty, it is a note among the fields.">
        {(ids) => (
          <NameField
            {...ids}
            value={section.title}
            maxLength={120}
            autoFocus={isNew}
            onChange={(e) => onChange({ ...section, title: e.target.value }, 'the title')}
          />
        )}
      </Labelled>
      <Labelled label="Note to the reader" help="Stands under the title: what to know before filling in what follows.">
        {(ids) => (
          <TextEditor
            id={ids.id}
            label="Note to the reader"
            value={section.note}
            places={[]}
            manner="formatted"
            onChange={(note) => onChange({ ...section, note }, 'the note')}
          />
        )}
      </Labelled>
      <label className="flex items-center gap-2">
        <Checkbox
          checked={section.twoColumns === true}
          onChecked={(on) => onChange({ ...section, twoColumns: on || undefined }, 'how its fields stand')}
        />
        The fields under it stand two beside one another, where there is room
      </label>
    </div>
  );
}

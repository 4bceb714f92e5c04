import { hasFiles } from '../../core/forms/index.ts';
import { Checkbox } from '~/ui/checkbox';
import { useEditor } from './draft-editor';

/** Which fields of the form may be corrected at a step; files are only asked for again. */
export function CorrectsSetting({ legend, chosen, onChange }: { legend: string; chosen: string[]; onChange: (ids: string[]) => void }) {
  const { fields } = useEditor().draft.form;
  const offered = fields.filter((f) => !hasFiles(f.kind) || chosen.includes(f.id));
  if (offered.length === 0) return null;
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{legend}</legend>
      {offered.map((f) => (
        <label key={f.id} className="flex items-center gap-2 py-0.5">
          <Checkbox checked={chosen.includes(f.id)} onChecked={(on) => onChange(on ? [...chosen, f.id] : chosen.filter((id) => id !== f.id))} />
          {f.label}
        </label>
      ))}
    </fieldset>
  );
}

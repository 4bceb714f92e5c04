import { useEditor } from './draft-editor';

/** The teams that exist, as options. */
export function TeamOptions() {
  const { catalogue } = useEditor();
  return Object.entries(catalogue.teams ?? {}).map(([id, t]) => (
    <option key={id} value={id}>
      {t.name}
    </option>
  ));
}

import { Combobox } from '~/ui/combobox';
import { useDrafted } from './draft-editor';

/** Picks one of the teams there are. */
export function TeamSelect({ value, onTeam }: { value: string; onTeam: (team: string) => void }) {
  const { catalogue } = useDrafted();
  return (
    <Combobox aria-label="Which team" value={value} onValue={onTeam}>
      {value === '' && <option value="">Choose a team …</option>}
      {Object.entries(catalogue.teams ?? {}).map(([id, t]) => (
        <option key={id} value={id}>
          {t.name}
        </option>
      ))}
    </Combobox>
  );
}

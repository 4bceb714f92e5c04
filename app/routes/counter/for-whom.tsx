import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';

/** For whom something is asked, where whoever asks may ask for others. */
export function ForWhom({
  forSelf,
  chosen,
  problem,
  onChoose,
}: {
  /** They may ask for themselves too. */
  forSelf: boolean;
  chosen: Chosen | undefined;
  problem: string | undefined;
  onChoose: (chosen: Chosen | undefined) => void;
}) {
  return (
    <div id="field-for-whom" className="mb-6 border-b pb-6">
      <Labelled
        label="For whom"
        required={!forSelf}
        help={forSelf ? 'Left empty, it is for you.' : 'You can ask for it for others, not for yourself.'}
        problem={problem}
      >
        {(ids) => <Picker {...ids} kind="person" name="whom" chosen={chosen} onChoose={onChoose} />}
      </Labelled>
    </div>
  );
}

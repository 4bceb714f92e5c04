import { useId } from 'react';
import { FileControl } from '~/ui/file-control';
import type { Chosen } from '~/ui/picker';

/** Files that go with a word: posted as `file`, each by its id. */
export function WordFiles({
  files,
  problem,
  onChange,
}: {
  files: Chosen[];
  /** What is wrong with one that was sent before scripts had loaded. */
  problem: string | undefined;
  onChange: (files: Chosen[]) => void;
}) {
  const id = useId();
  return (
    <div className="mt-2">
      <FileControl
        name="file"
        label="Files with it"
        ids={{ id, 'aria-describedby': undefined, 'aria-invalid': undefined }}
        several
        files={files.map((f) => f.id)}
        names={Object.fromEntries(files.map((f) => [f.id, f.name]))}
        onChange={(ids, chosen) =>
          onChange(ids.map((i) => (chosen?.id === i ? chosen : (files.find((f) => f.id === i) ?? { id: i, name: 'A file' }))))
        }
      />
      {problem && <p className="text-sm text-coral">{problem}</p>}
    </div>
  );
}

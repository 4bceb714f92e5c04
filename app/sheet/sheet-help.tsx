import { Dialog } from '~/ui/dialog';
import { keys } from './sheet-keys';

/** The keys of the sheet. */
export function SheetHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} title="Keys of the plan sheet" onClose={onClose}>
      <dl className="grid grid-cols-[max-content_1fr] gap-x-5 gap-y-1 overflow-y-auto p-4 text-sm">
        {keys.map(([key, does]) => (
          <div key={key} className="contents">
            <dt className="numbers">{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}

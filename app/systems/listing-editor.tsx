import type { Listing, WebAction } from '../../core/systems/index.ts';
import { Checkbox } from '~/ui/checkbox';
import { Captioned } from './captioned';

const fresh: Listing = { path: '/', rows: '' };
const pointers: { field: 'rows' | 'who' | 'what' | 'next'; caption: string; label: string; placeholder: string }[] = [
  { field: 'rows', caption: 'Rows at', label: 'Where its rows stand', placeholder: '/rows' },
  { field: 'who', caption: 'Whose, at', label: 'Where a row says whose it is', placeholder: 'not said' },
  { field: 'what', caption: 'What, at', label: 'Where a row says what it is', placeholder: 'as answered' },
  { field: 'next', caption: 'Next page, at', label: 'Where the path of its next page stands', placeholder: 'one page' },
];

/** Where the system lists what it has of what an action gives, so that it is compared with what people hold. */
export function ListingEditor({
  named,
  action: a,
  onChange,
}: {
  named: (field: string) => { name: string; problem: string | undefined };
  action: WebAction;
  onChange: (listing: WebAction['listing']) => void;
}) {
  if (!a.gives && !a.listing) return null;
  const what = a.label || 'this action';
  const { listing } = a;
  return (
    <div className="space-y-2 text-sm">
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={listing !== undefined} onChecked={(on) => onChange(on ? fresh : undefined)} />
        <span>
          The system lists what it has of this
          <span className="sr-only"> ({what})</span>
          <span className="block text-faint">It is read each night, and what differs from what people hold stands in the Ledger.</span>
        </span>
      </label>
      {listing && (
        <div className="grid grid-cols-5 items-start gap-2 border-l pl-3">
          <Captioned
            {...named('listing.path')}
            caption="Path (GET)"
            className="numbers"
            label={`Path of the list of ${what}`}
            value={listing.path}
            onChange={(e) => onChange({ ...listing, path: e.target.value })}
          />
          {pointers.map(({ field, caption, label, placeholder }) => (
            <Captioned
              key={field}
              {...named(`listing.${field}`)}
              caption={caption}
              className="numbers"
              label={`${label}, of ${what}: JSON Pointer`}
              placeholder={placeholder}
              value={listing[field] ?? ''}
              onChange={(e) => onChange({ ...listing, [field]: e.target.value || (field === 'rows' ? '' : undefined) })}
            />
          ))}
        </div>
      )}
    </div>
  );
}

import { useState } from 'react';
import { useEditor } from '~/sheet/draft-editor';
import { AudienceEditor } from './audience';
import { NamedPeople } from '~/sheet/named-people';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { useNameTaken } from '~/ui/item-name';
import { NameField } from '~/ui/name-field';

/** What an item is called and for, and who reads what is asked. */
export function AboutItem() {
  const { draft, change, id, kind, catalogue, learn } = useEditor();
  const [name, setName] = useState(draft.name);
  const taken = useNameTaken(name, id);
  const problem = taken ?? (name.trim() === '' ? 'The item needs a name.' : undefined);
  return (
    <div className="space-y-5">
      <Labelled label="Name" help="What people look for at the Counter." problem={problem} required>
        {(ids) => (
          <NameField
            {...ids}
            value={name}
            maxLength={80}
            onChange={(e) => {
              setName(e.target.value);
              if (e.target.value.trim()) change({ ...draft, name: e.target.value }, 'Edit the name');
            }}
          />
        )}
      </Labelled>
      <Labelled label="Purpose" help="One or two sentences under the name.">
        {(ids) => (
          <textarea
            {...ids}
            className="input"
            rows={2}
            maxLength={300}
            value={draft.summary}
            onChange={(e) => change({ ...draft, summary: e.target.value }, 'Edit the purpose')}
          />
        )}
      </Labelled>
      <Labelled
        label="Category"
        help="Items of one category stand together at the Counter. A stroke parts it from what it lies within: Access / Groups."
      >
        {(ids) => (
          <input
            {...ids}
            className="input"
            maxLength={60}
            value={draft.category}
            onChange={(e) => change({ ...draft, category: e.target.value }, 'Edit the category')}
          />
        )}
      </Labelled>
      {kind === 'item' && (
        <Labelled label="Also called" help="Other words by which people look for it: colleague joining, new starter.">
          {(ids) => (
            <input
              {...ids}
              className="input"
              maxLength={300}
              value={draft.alsoCalled ?? ''}
              onChange={(e) => change({ ...draft, alsoCalled: e.target.value || undefined }, 'Edit what it is also called')}
            />
          )}
        </Labelled>
      )}
      {kind === 'item' && <AudienceEditor />}
      {kind === 'item' && (
        <fieldset className="border-t pt-4">
          <label className="flex gap-2">
            <Checkbox
              className="mt-0.5"
              checked={draft.confidential !== undefined}
              onChecked={(on) => change({ ...draft, confidential: on ? { readers: [] } : undefined }, 'Change who reads it')}
            />
            <span>
              Confidential
              <span className="block text-sm text-faint">
                What is asked and said is only for the requester, those who are asked, the teams that work on it, and the readers named here. Others
                in the Ledger see that a request exists.
              </span>
            </span>
          </label>
          {draft.confidential && (
            <div className="mt-3 ml-6">
              <p className="mb-1 font-medium">Readers</p>
              <NamedPeople
                people={draft.confidential.readers}
                name={(p) => catalogue.people[p]?.name ?? 'someone'}
                addLabel="Name a reader"
                learn={learn}
                onChange={(readers) => change({ ...draft, confidential: { readers } }, 'Change who reads it')}
              />
            </div>
          )}
        </fieldset>
      )}
    </div>
  );
}

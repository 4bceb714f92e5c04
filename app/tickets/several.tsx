import { useState } from 'react';
import { Button } from '~/ui/button';
import { Dialog } from '~/ui/dialog';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { Select } from '~/ui/select';

/** What is sent of several entries of the queue. */
export interface Several {
  act: 'give' | 'write' | 'note' | 'end';
  team: string;
  to: string;
  why: string;
  words: string;
}

/** More that can be done with what was chosen in the queue than to take it. */
export function SeveralDialog({
  open,
  count,
  teams,
  onClose,
  onAct,
}: {
  open: boolean;
  count: number;
  teams: { id: string; name: string }[];
  onClose: () => void;
  onAct: (act: Several) => void;
}) {
  const [team, setTeam] = useState('');
  const [person, setPerson] = useState<Chosen>();
  const [why, setWhy] = useState('');
  const [words, setWords] = useState('');
  const these = count === 1 ? 'this one' : `these ${count}`;
  const send = (act: Several['act']) => onAct({ act, team, to: person?.id ?? '', why, words });
  return (
    <Dialog open={open} title={count === 1 ? 'One is chosen' : `${count} are chosen`} onClose={onClose}>
      <div className="space-y-4 overflow-y-auto p-4">
        <section aria-label="Give them" className="space-y-3">
          <Labelled label="To a team">
            {(ids) => (
              <Select {...ids} value={team} onValue={setTeam}>
                <option value="">The team each is with</option>
                {teams.map((t) => (
                  <option key={t.id} value={t.id}>
                    {t.name}
                  </option>
                ))}
              </Select>
            )}
          </Labelled>
          <Labelled label="To a person">{(ids) => <Picker {...ids} kind="person" chosen={person} onChoose={setPerson} />}</Labelled>
          <Labelled label="Why" help="Stands in the history of each ticket.">
            {(ids) => <input {...ids} className="input" maxLength={300} value={why} onChange={(e) => setWhy(e.target.value)} />}
          </Labelled>
          <Button disabled={team === '' && !person} onClick={() => send('give')}>
            Give {these}, and tell who gets them
          </Button>
        </section>
        <section aria-label="Write to them" className="space-y-3 border-t pt-4">
          <Labelled label="The same words to each">
            {(ids) => <textarea {...ids} rows={3} className="input" maxLength={8000} value={words} onChange={(e) => setWords(e.target.value)} />}
          </Labelled>
          <div className="flex flex-wrap gap-2">
            <Button disabled={words.trim() === ''} onClick={() => send('write')}>
              Send to who asked
            </Button>
            <Button disabled={words.trim() === ''} onClick={() => send('end')}>
              Send, and end {these}
            </Button>
            <Button disabled={words.trim() === ''} onClick={() => send('note')}>
              Note for the desk
            </Button>
          </div>
        </section>
      </div>
    </Dialog>
  );
}

import { useState, type ReactNode } from 'react';
import { data } from 'react-router';
import { toast } from 'sonner';
import { config } from '../../server/config.ts';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Combobox } from '~/ui/combobox';
import { DateField } from '~/ui/date-field';
import { DecimalField } from '~/ui/decimal-field';
import { Labelled } from '~/ui/field';
import { FormFields } from '~/ui/form-fields';
import { ListEditor } from '~/ui/list-editor';
import { Menu, MenuAct, MenuCheck } from '~/ui/menu';
import { NameField } from '~/ui/name-field';
import { NumberField } from '~/ui/number-field';
import { Popover } from '~/ui/popover';
import { Progress } from '~/ui/progress';
import { RadioGroup } from '~/ui/radio-group';
import { StateMark, RequestState, type StateMarkKind } from '~/ui/state-mark';
import { MoneyInput } from '~/ui/money-input';
import { Picker, type Chosen } from '~/ui/picker';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Switch } from '~/ui/switch';
import { Tabs } from '~/ui/tabs';
import { Time } from '~/ui/time';
import { signedIn } from './session.server';
import type { Route } from './+types/kit';
import type { Field } from '../../core/forms/index.ts';
import type { Money, Value } from '../../core/values/index.ts';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'The kit · Nessmoor' }];

/** Shown to those who build Nessmoor: there only where the settings say so. */
export function loader({ context, request }: Route.LoaderArgs) {
  signedIn(context, request);
  if (config().KIT !== 'on') throw data('There is no page at this address. The places above lead on.', { status: 404 });
  return null;
}

const instruments = [
  'Tide gauge',
  'Echo sounder',
  'Sextant',
  'Current meter',
  'Drop camera',
  'Lead line',
  'Total station',
  'Drifter',
  'Side-scan sonar',
  'Grab sampler',
];
const marks: StateMarkKind[] = ['empty', 'half', 'held', 'done', 'declined', 'lapsed', 'failed'];
const outcomes = [null, 'fulfilled', 'declined', 'withdrawn', 'lapsed', 'failed'] as const;

const tides = ['Ebb', 'Flood', 'Slack'].map((label) => ({ value: label.toLowerCase(), label }));

function KitSwitch() {
  const [on, setOn] = useState(false);
  return (
    <label className="flex items-center gap-2">
      <Switch on={on} onTurned={setOn} /> Show the depths
    </label>
  );
}

const faces = { chart: 'Chart', soundings: 'Soundings', notes: 'Notes' };
function KitTabs() {
  const [at, setAt] = useState<keyof typeof faces>('chart');
  return (
    <Tabs label="Faces of the survey" at={at} onAt={setAt} faces={faces}>
      <p>Here are the {faces[at].toLowerCase()}.</p>
    </Tabs>
  );
}

const sketches: Field = { id: 'sketches', kind: 'files', label: 'Sketches', required: false };
function KitFiles() {
  const [value, setValue] = useState<Value>([{ file: 'none' }]);
  const [names, setNames] = useState<Record<string, string>>({ none: 'Wreck off Lunnick.pdf' });
  return (
    <div className="w-80">
      <FormFields
        form={{ fields: [sketches] }}
        answers={{ sketches: value }}
        names={names}
        onChange={(_, next, chosen) => {
          setValue(next);
          if (chosen) setNames((all) => ({ ...all, [chosen.id]: chosen.name }));
        }}
      />
    </div>
  );
}

const soundings: Field = {
  id: 'soundings',
  kind: 'lines',
  label: 'Soundings',
  required: true,
  columns: [
    { id: 'where', kind: 'text', label: 'Where', required: true },
    { id: 'depth', kind: 'number', label: 'Depth', unit: 'm', required: true },
    { id: 'again', kind: 'yesNo', label: 'Sound again', required: false },
  ],
};

/** Each part of the kit in each of its states. */
export default function Kit() {
  const [port, setPort] = useState('');
  const [stream, setStream] = useState('');
  const [tool, setTool] = useState('');
  const [copies, setCopies] = useState(2);
  const [levels, setLevels] = useState<number>();
  const [depth, setDepth] = useState<Value>(null);
  const [day, setDay] = useState('');
  const [tide, setTide] = useState('');
  const [short, setShort] = useState('Lunnick');
  const [on, setOn] = useState(false);
  const [price, setPrice] = useState<Money | null>(null);
  const [person, setPerson] = useState<Chosen>();
  const [stops, setStops] = useState([
    { key: 1, name: 'Torvay' },
    { key: 2, name: 'Lunnick' },
    { key: 3, name: 'Kittiwake shoal' },
  ]);
  const [lines, setLines] = useState<Value>([{ entry: { where: 'Off the mole', depth: 'deep' } }]);
  return (
    <main id="main" className="mx-auto w-full max-w-4xl bg-sheet px-6 py-6">
      <h1 className="font-serif text-2xl">The kit</h1>
      <Part name="Button">
        <Button weight="main" onClick={() => toast('The chart is filed', { action: { label: 'Undo', onClick: () => toast('It is not filed') } })}>
          File the chart
        </Button>
        <Button>Set it aside</Button>
        <Button weight="decline">Decline</Button>
        <Button weight="quiet">Show the keys</Button>
        <Button disabled>Not yet</Button>
      </Part>
      <Part name="Text field">
        <div className="grid grow grid-cols-3 gap-4">
          <Labelled label="Name of the survey" required>
            {(ids) => <input {...ids} className="input" defaultValue="Lunnick sound" />}
          </Labelled>
          <Labelled label="Purpose" help="One sentence is enough.">
            {(ids) => <input {...ids} className="input" />}
          </Labelled>
          <Labelled label="Depth" problem="The depth is a number from 0 to 400.">
            {(ids) => <input {...ids} className="input" defaultValue="four" />}
          </Labelled>
        </div>
      </Part>
      <Part name="Select">
        <div className="grid grow grid-cols-3 gap-4">
          <Labelled label="Port">
            {(ids) => (
              <Select {...ids} value={port} onValue={setPort}>
                <option value="">Choose …</option>
                <optgroup label="Torvay">
                  <option value="quay">Quay House</option>
                  <option value="stores">Stores</option>
                </optgroup>
                <option value="lunnick">Lunnick Station</option>
              </Select>
            )}
          </Labelled>
          <Labelled label="Vessel" problem="A vessel has to be chosen.">
            {(ids) => (
              <Select {...ids}>
                <option value="">Choose …</option>
                <option value="anseli">Anseli</option>
              </Select>
            )}
          </Labelled>
          <Labelled label="Chart">
            {(ids) => (
              <Select {...ids} name="chart">
                <option value="approaches">Approaches</option>
                <option value="harbour">Harbour</option>
              </Select>
            )}
          </Labelled>
          <Labelled label="Zone">
            {(ids) => (
              <Select {...ids} defaultValue="faroe" disabled>
                <option value="oslo">Europe/Oslo</option>
                <option value="faroe">Atlantic/Faroe</option>
              </Select>
            )}
          </Labelled>
        </div>
      </Part>
      <Part name="Combobox">
        <div className="grid grow grid-cols-3 gap-4">
          <Labelled label="Instrument">
            {(ids) => (
              <Combobox {...ids} value={tool} onValue={setTool}>
                <option value="">Pick one …</option>
                {instruments.map((i) => (
                  <option key={i}>{i}</option>
                ))}
              </Combobox>
            )}
          </Labelled>
          <Labelled label="Stream">
            {(ids) => (
              <Combobox {...ids} value={stream} onValue={setStream}>
                <option value="">Pick one …</option>
                {tides.map((t) => (
                  <option key={t.value} value={t.value}>
                    {t.label}
                  </option>
                ))}
              </Combobox>
            )}
          </Labelled>
          <Labelled label="Colleague">{(ids) => <Picker {...ids} kind="person" chosen={person} onChoose={setPerson} />}</Labelled>
          <Labelled label="Price">
            {(ids) => <MoneyInput {...ids} name="price" label="Price" currency="EUR" value={price} onChange={(v) => setPrice(v as Money)} />}
          </Labelled>
        </div>
      </Part>
      <Part name="Number">
        <div className="grid grow grid-cols-3 gap-4">
          <Labelled label="Copies">
            {(ids) => <NumberField {...ids} min={1} max={10} value={copies} onValue={(n) => n !== undefined && setCopies(n)} />}
          </Labelled>
          <NumberField before="At most" after="levels" optional min={0} value={levels} onValue={setLevels} />
          <Labelled label="Depth in metres">{(ids) => <DecimalField {...ids} value={depth} unit="m" onChange={setDepth} />}</Labelled>
        </div>
      </Part>
      <Part name="Date">
        <div className="grid grow grid-cols-3 gap-4">
          <Labelled label="First day">{(ids) => <DateField {...ids} value={day} onValue={setDay} />}</Labelled>
          <Labelled label="Last day" problem="The last day is after the first.">
            {(ids) => <DateField {...ids} value="2026-11-02" onValue={() => undefined} />}
          </Labelled>
        </div>
      </Part>
      <Part name="Radio">
        <RadioGroup aria-label="Tide" value={tide} options={tides} onValue={setTide} />
      </Part>
      <Part name="Menu and popover">
        <Menu label="Acts on the chart" opener={<Button>Acts</Button>}>
          <MenuAct onSelect={() => toast('Copied')}>Copy the chart</MenuAct>
          <MenuCheck checked={on} onChecked={setOn}>
            Show depths
          </MenuCheck>
          <MenuAct destructive onSelect={() => toast('Removed')}>
            Remove the chart
          </MenuAct>
        </Menu>
        <Popover label="About this chart" opener={<Button>About this chart</Button>}>
          <p>Surveyed in spring, from the Anseli.</p>
        </Popover>
      </Part>
      <Part name="Name with its limit">
        <Labelled label="Short name">
          {(ids) => <NameField {...ids} value={short} maxLength={20} onChange={(e) => setShort(e.target.value)} />}
        </Labelled>
      </Part>
      <Part name="Checkbox">
        <label className="flex items-center gap-2">
          <Checkbox checked={on} onChecked={setOn} /> It comes back by ship
        </label>
        <label className="flex items-center gap-2">
          <Checkbox checked onChecked={() => undefined} /> Checked
        </label>
        <label className="flex items-center gap-2">
          <Checkbox checked={false} aria-invalid onChecked={() => undefined} /> Has to be checked
        </label>
      </Part>
      <Part name="Switch">
        <KitSwitch />
      </Part>
      <Part name="Tabs">
        <KitTabs />
      </Part>
      <Part name="Tip">
        <Button data-tip="Goes up with the flood, down with the ebb">Tide gauge</Button>
        <span className="w-24 truncate" data-tip="A side-scan sonar of the second survey">
          A side-scan sonar of the second survey
        </span>
      </Part>
      <Part name="List editor">
        <div className="grow">
          <ListEditor
            rows={stops}
            keyOf={(s) => s.key}
            nameOf={(s) => `the stop “${s.name}”`}
            addLabel="Add a stop"
            make={() => ({ key: Math.max(...stops.map((s) => s.key)) + 1, name: '' })}
            onChange={setStops}
            movable
            least={1}
          >
            {({ row, at, set }) => (
              <input className="input" aria-label={`Stop ${at + 1}`} value={row.name} onChange={(e) => set({ ...row, name: e.target.value })} />
            )}
          </ListEditor>
        </div>
      </Part>
      <Part name="Lines of a form">
        <div className="grow">
          <FormFields
            form={{ fields: [soundings] }}
            answers={{ soundings: lines }}
            names={{}}
            problems={{ soundings: 'Soundings, line 1: Depth must be a number.' }}
            onChange={(_, value) => setLines(value)}
          />
        </div>
      </Part>
      <Part name="Files">
        <KitFiles />
      </Part>
      <Part name="Progress">
        <div className="w-64 space-y-3">
          <Progress label="Half done" part={0.5} />
          <Progress label="Not known how much" part={undefined} />
        </div>
      </Part>
      <Part name="Marks">
        {marks.map((m) => (
          <span key={m} className="flex items-center gap-1.5">
            <StateMark kind={m} /> {m}
          </span>
        ))}
        {outcomes.map((o) => (
          <RequestState key={o ?? 'open'} outcome={o} />
        ))}
        <RequestState outcome={null} stuck />
      </Part>
      <Part name="Time">
        <Time at="2026-11-26T13:05:00Z" />
        <Time at="2026-11-20T08:00:00Z" relative />
      </Part>
      <Part name="Refusal">
        <Refused sentence="Somebody else has changed this meanwhile. What you typed is kept." />
      </Part>
    </main>
  );
}

const Part = ({ name, children }: { name: string; children: ReactNode }) => (
  <section aria-label={name} className="border-b py-4">
    <h2 className="mb-2 font-medium text-faint">{name}</h2>
    <div className="flex flex-wrap items-start gap-4">{children}</div>
  </section>
);

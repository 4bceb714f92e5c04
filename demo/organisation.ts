import { seeded } from './seeded.ts';

/** Skerrin Hydrographic: an institute that does not exist. Every name here is made up. */
export interface DemoPerson {
  key: string;
  name: string;
  jobRole: string;
  department: string;
  place: string;
  manager?: string;
  away?: { days: number; delegate: string };
  lastDayIn?: number;
}
export interface DemoGroup {
  name: string;
  purpose: string;
  owners: string[];
  members: string[];
}

export const places = [
  { name: 'Torvay', kind: 'site', zone: 'Atlantic/Faroe' },
  { name: 'Quay House', kind: 'building', parent: 'Torvay' },
  { name: 'Quay House, floor 1', kind: 'floor', parent: 'Quay House' },
  { name: 'Quay House, floor 2', kind: 'floor', parent: 'Quay House' },
  { name: 'Quay House, floor 3', kind: 'floor', parent: 'Quay House' },
  { name: 'Chart Hall', kind: 'building', parent: 'Torvay' },
  { name: 'Stores', kind: 'building', parent: 'Torvay' },
  { name: 'Anseli', kind: 'vessel', parent: 'Torvay' },
  { name: 'Lunnick Station', kind: 'site', zone: 'Europe/Oslo' },
  { name: 'Observatory', kind: 'building', parent: 'Lunnick Station' },
  { name: 'Boat Shed', kind: 'building', parent: 'Lunnick Station' },
  { name: 'Kittiwake', kind: 'vessel', parent: 'Lunnick Station' },
] as const;

const first =
  'Abel Alva Anders Astrid Bera Birk Brita Dagny Edda Egil Eira Elin Embla Eskil Fenja Finn Frey Gudrun Halla Hauk Hedda Helgi Idunn Inga Ivar Jorun Kaia Kari Kjell Lina Liv Magni Marit Nanna Njal Oda Ola Orm Ragna Runa Saga Sander Signe Siv Solveig Stein Sunniva Svein Tora Torbjorn Trym Tuva Ulf Una Vidar Yngve Ylva'.split(
    ' ',
  );
const last =
  'Auskerry Bergsund Brimvik Dalskog Eidholm Fjardal Fossness Gannetry Grindvag Hellisay Holmgard Innervag Kelpvik Langskar Lyngholm Marstrand Nordvag Osterfjell Ravnskar Saltvik Selness Skarholm Skellig Solvag Stormness Sundvik Tangness Tidemark Torskar Uttervag Vardholm Westray'.split(
    ' ',
  );

const departments = [
  {
    name: 'Hydrography',
    places: ['Quay House, floor 2', 'Quay House, floor 3', 'Anseli', 'Kittiwake'],
    roles: ['hydrographer', 'survey technician', 'field planner'],
    size: 52,
  },
  { name: 'Tides', places: ['Observatory'], roles: ['tide analyst', 'instrument keeper'], size: 24 },
  { name: 'Charts', places: ['Chart Hall'], roles: ['chart editor', 'chart proofreader', 'cartographer'], size: 32 },
  { name: 'Vessels', places: ['Anseli', 'Kittiwake', 'Boat Shed'], roles: ['deck technician', 'mate', 'purser', 'engine keeper'], size: 30 },
  {
    name: 'Services',
    places: ['Quay House, floor 1', 'Stores'],
    roles: ['IT technician', 'payroll clerk', 'storekeeper', 'people adviser'],
    size: 30,
  },
] as const;

/** People with a part in the story; the rest is filled up to about 180. */
const cast: DemoPerson[] = [
  { key: 'director', name: 'Hedvig Skarholm', jobRole: 'director', department: 'Direction', place: 'Quay House, floor 3' },
  {
    key: 'designer',
    name: 'Una Ravnskar',
    jobRole: 'service process owner',
    department: 'Services',
    place: 'Quay House, floor 1',
    manager: 'services-head',
  },
  { key: 'approver', name: 'Ivar Tidemark', jobRole: 'head of tides', department: 'Tides', place: 'Observatory', manager: 'director' },
  { key: 'owner', name: 'Solveig Langskar', jobRole: 'tide analyst', department: 'Tides', place: 'Observatory', manager: 'approver' },
  {
    key: 'technician',
    name: 'Birk Saltvik',
    jobRole: 'IT technician',
    department: 'Services',
    place: 'Quay House, floor 1',
    manager: 'services-head',
  },
  {
    key: 'requester',
    name: 'Tuva Fossness',
    jobRole: 'hydrographer',
    department: 'Hydrography',
    place: 'Quay House, floor 2',
    manager: 'hydro-head',
  },
  { key: 'auditor', name: 'Njal Westray', jobRole: 'internal auditor', department: 'Direction', place: 'Quay House, floor 3', manager: 'director' },
  {
    key: 'administrator',
    name: 'Ylva Stormness',
    jobRole: 'systems administrator',
    department: 'Services',
    place: 'Quay House, floor 1',
    manager: 'services-head',
  },
  {
    key: 'access-lead',
    name: 'Gudrun Eidholm',
    jobRole: 'lead, directory and access',
    department: 'Services',
    place: 'Quay House, floor 1',
    manager: 'services-head',
  },
  {
    key: 'services-head',
    name: 'Magni Bergsund',
    jobRole: 'head of services',
    department: 'Services',
    place: 'Quay House, floor 1',
    manager: 'director',
  },
  {
    key: 'hydro-head',
    name: 'Ragna Innervag',
    jobRole: 'head of hydrography',
    department: 'Hydrography',
    place: 'Quay House, floor 3',
    manager: 'director',
  },
  {
    key: 'charts-head',
    name: 'Egil Holmgard',
    jobRole: 'head of charts',
    department: 'Charts',
    place: 'Chart Hall',
    manager: 'director',
    away: { days: 20, delegate: 'charts-second' },
  },
  { key: 'charts-second', name: 'Liv Kelpvik', jobRole: 'chart editor', department: 'Charts', place: 'Chart Hall', manager: 'charts-head' },
  { key: 'vessels-head', name: 'Orm Uttervag', jobRole: 'fleet master', department: 'Vessels', place: 'Boat Shed', manager: 'director' },
  {
    key: 'long-one',
    name: 'Annfrid Margrethe Vilhelmina Osterfjell-Grindvag av Nordre Hellisay',
    jobRole: 'senior coordinating hydrographer for shallow-water survey planning',
    department: 'Hydrography',
    place: 'Quay House, floor 2',
    manager: 'hydro-head',
  },
  {
    key: 'long-two',
    name: 'Bartholomeus Alexander Sigismund Langskar-Vardholm den Yngre',
    jobRole: 'deck technician',
    department: 'Vessels',
    place: 'Kittiwake',
    manager: 'vessels-head',
  },
  { key: 'other-script', name: 'Ελπίδα Θαλασσινού', jobRole: 'tide analyst', department: 'Tides', place: 'Observatory', manager: 'approver' },
  {
    key: 'leaver',
    name: 'Trym Solvag',
    jobRole: 'field planner',
    department: 'Hydrography',
    place: 'Quay House, floor 2',
    manager: 'hydro-head',
    lastDayIn: 6,
  },
  { key: 'no-manager-one', name: 'Finn Auskerry', jobRole: 'visiting scholar', department: 'Tides', place: 'Observatory' },
  { key: 'no-manager-two', name: 'Oda Tangness', jobRole: 'archive volunteer', department: 'Charts', place: 'Chart Hall' },
];
const heads: Record<string, string> = {
  Hydrography: 'hydro-head',
  Tides: 'approver',
  Charts: 'charts-head',
  Vessels: 'vessels-head',
  Services: 'services-head',
};

export const size = 180;

export function people(): DemoPerson[] {
  const random = seeded(1806);
  const names = new Set(cast.map((p) => p.name));
  const all = [...cast];
  for (const d of departments) {
    const leads: string[] = [];
    let n = all.filter((p) => p.department === d.name).length;
    while (n < d.size + 3 && all.length < size) {
      const name = `${random.pick(first)} ${random.pick(last)}`;
      if (names.has(name)) continue;
      names.add(name);
      const key = name.toLowerCase().replace(' ', '.');
      const lead = leads.length < 3;
      all.push({
        key,
        name,
        jobRole: random.pick(d.roles),
        department: d.name,
        place: random.pick(d.places),
        manager: lead ? heads[d.name]! : random.pick(leads),
      });
      if (lead) leads.push(key);
      n++;
    }
  }
  return all;
}

export function groups(staff: DemoPerson[]): DemoGroup[] {
  const random = seeded(77);
  const of = (department: string, n: number) =>
    random.some(
      staff.filter((p) => p.department === department).map((p) => p.key),
      n,
    );
  return [
    { name: 'tide-models', purpose: 'Read and run the tide prediction models.', owners: ['approver', 'owner'], members: of('Tides', 14) },
    { name: 'tide-archive', purpose: 'Historic gauge readings since 1911.', owners: ['owner'], members: of('Tides', 9) },
    { name: 'chart-signoff', purpose: 'Sign off charts before they go to print.', owners: ['charts-head'], members: of('Charts', 8) },
    { name: 'chart-drafts', purpose: 'Work on chart drafts.', owners: ['charts-head', 'charts-second'], members: of('Charts', 20) },
    { name: 'vessel-logs', purpose: 'Logs of Anseli and Kittiwake.', owners: ['vessels-head'], members: of('Vessels', 18) },
    { name: 'vessel-rosters', purpose: 'Who sails when.', owners: ['vessels-head'], members: of('Vessels', 11) },
    {
      name: 'survey-planning',
      purpose: 'Plans and priorities of coming surveys.',
      owners: ['hydro-head', 'long-one'],
      members: of('Hydrography', 22),
    },
    { name: 'survey-raw', purpose: 'Raw soundings as they come off the vessels.', owners: ['hydro-head'], members: of('Hydrography', 25) },
    { name: 'finance-read', purpose: 'Read the accounts; change nothing.', owners: ['services-head'], members: of('Services', 4) },
    { name: 'people-office', purpose: 'Personnel matters.', owners: ['services-head'], members: of('Services', 3) },
    { name: 'platform-admins', purpose: 'Administer machines and storage.', owners: ['administrator'], members: ['technician'] },
    { name: 'lunnick-instruments', purpose: 'Readings of the instruments at Lunnick.', owners: ['approver'], members: of('Tides', 7) },
    {
      name: 'old-soundings',
      purpose: 'Lead-line soundings before 1950; nobody looks after it at present.',
      owners: [],
      members: of('Hydrography', 2),
    },
  ];
}

export const teams = [
  { name: 'Workplace', place: 'Torvay', members: ['technician'] },
  { name: 'Directory and access', place: 'Torvay', members: ['access-lead', 'administrator'] },
  { name: 'Platforms', place: 'Torvay', members: ['administrator', 'technician'] },
  { name: 'Stores', place: 'Stores', members: ['technician'] },
  { name: 'People office', place: 'Torvay', members: ['technician', 'services-head'] },
  { name: 'Charts helpdesk', place: 'Chart Hall', members: ['charts-second'] },
] as const;

/** The sign-ins printed at the start, one for each part in the story. */
export const signIns = [
  { part: 'designer', key: 'designer', roles: ['designer'] },
  { part: 'approver', key: 'approver', roles: [] },
  { part: 'second owner', key: 'owner', roles: [] },
  { part: 'technician', key: 'technician', roles: ['teamMember'] },
  { part: 'requester', key: 'requester', roles: [] },
  { part: 'auditor', key: 'auditor', roles: ['auditor'] },
  { part: 'administrator', key: 'administrator', roles: ['administrator'] },
  { part: 'access lead', key: 'access-lead', roles: ['teamMember'] },
] as const;
export const demoPassword = 'lantern over quay';

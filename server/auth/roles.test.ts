import { readdirSync, readFileSync } from 'node:fs';
import { Readable } from 'node:stream';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import { passages } from '../../core/plans/index.ts';
import { blankItem } from '../../core/items/index.ts';
import { sentence } from '../../core/values/index.ts';
import type { Viewer } from './viewer.ts';
import * as m from '../testing/rooms.ts';
import { world, type World } from '../testing/world.ts';
import { seal } from './seal.ts';
import { putAside } from '../set-aside/put-aside.ts';
import { hoursFormat, keptDocument } from '../../core/documents/index.ts';
import { usualHours } from '../../core/calendar/index.ts';
import { askedOf } from '../../core/lists/index.ts';
import { blankTable } from '../../core/tables/index.ts';
import { shippedKinds } from '../../core/tickets/index.ts';
import { ticketKit } from '../testing/tickets.ts';

/**
 * Every command and every query against everybody: those with a role and no part in the request, and those with a part in it
 * and no role. What a module exports for a viewer and this table lacks is a failing test.
 */
let w: World;
const writes = {
  steps: [step('write', 'letter', { fileName: sentence('Loan'), title: sentence('Loan'), body: passages('Yours for a week.'), numbered: true })],
};
/** Who tries. Olav has no part in anything below. */
const everybody: Record<string, () => Viewer> = {
  anybody: () => w.viewer('olav'),
  designer: () => w.viewer('olav', 'designer'),
  teamMember: () => w.viewer('olav', 'teamMember'),
  auditor: () => w.viewer('olav', 'auditor'),
  administrator: () => w.viewer('olav', 'administrator'),
  requester: () => w.viewer('tor'),
  approver: () => w.viewer('boss'),
  member: () => w.viewer('dan'),
  technician: () => w.viewer('dan', 'teamMember'),
  owner: () => w.viewer('ina'),
};
const all = Object.keys(everybody);
/** Olav owns a group, whatever role he has. */
const outsiders = ['anybody', 'designer', 'teamMember', 'auditor', 'administrator'];
const technicians = ['teamMember', 'technician'];
const team = ['member', 'technician'];
/** Who keeps the equipment of a place: its team, and administrators. */
const keepers = ['administrator', ...team];
/** Ids of what they try it on: a request with everything open, a consent that waits, an entry set aside. */
let at: Record<
  | 'request'
  | 'number'
  | 'note'
  | 'meeting'
  | 'approval'
  | 'task'
  | 'question'
  | 'consent'
  | 'aside'
  | 'item'
  | 'policy'
  | 'readTable'
  | 'view'
  | 'spare'
  | 'written'
  | 'file'
  | 'line'
  | 'release'
  | 'hours'
  | 'ticket'
  | 'kind'
  | 'routing'
  | 'way'
  | 'holding'
  | 'difference'
  | 'pair'
  | 'decided'
  | 'exception'
  | 'stockPlace'
  | 'equipmentKind'
  | 'piece'
  | 'issue'
  | 'order',
  string
>;

/** A form that asks for access that somebody has. */
const aboutAccess: Form = { fields: [{ id: 'access', kind: 'holding', label: 'Access', required: true, gave: 'directory.addMember' }] };

type Outcome = { ok: boolean; code?: string };
type Row = [allowed: string[], attempt: (viewer: Viewer, who: string) => Promise<Outcome> | Outcome];

/** A reading that gives nothing, or a list without what is looked for, is a refusal. */
const seen = async (what: Promise<unknown>): Promise<Outcome> => {
  const found = await what;
  const rows = found !== null && typeof found === 'object' && 'rows' in found ? found.rows : found;
  const empty = rows === undefined || rows === false || rows === 0 || (Array.isArray(rows) && rows.length === 0);
  return empty ? { ok: false, code: 'not-found' } : { ok: true };
};

const stick = async () => {
  await w.manner('directory', 'refusing');
  await w.work();
  await w.manner('directory', 'well');
};
const stuck = () => ({ number: Number(at.number), key: 'p#1' });
const system = (name: string) => ({ name, address: 'http://127.0.0.1:9', ownNetwork: true, timeoutMs: 5000, actions: [] });

const readers = ['designer', 'teamMember', 'auditor', 'administrator', 'technician'];
const table: Record<string, Row> = {
  // What is asked, and what it waits for.
  submitRequest: [all, (v) => m.submit.submitRequest(v, { itemId: at.item, revision: 1, answers: {}, idempotencyKey: 'x' })],
  putInBasket: [all, (v) => m.baskets.putInBasket(v, { itemId: at.item, revision: 1, answers: {} })],
  basketOf: [['requester'], (v) => seen(m.readBaskets.basketOf(v).then((b) => b.lines))],
  basketSize: [['requester'], (v) => seen(m.readBaskets.basketSize(v))],
  basketLineOf: [['requester'], (v) => seen(m.readBaskets.basketLineOf(v, at.line))],
  // Everybody of their own: another's is not there to be taken or sent (server/baskets/baskets.test.ts).
  takeFromBasket: [all, (v) => m.baskets.takeFromBasket(v, crypto.randomUUID())],
  sendBasket: [all, (v) => m.baskets.sendBasket(v, { idempotencyKey: crypto.randomUUID() })],
  myOrder: [[], (v) => seen(m.readBaskets.myOrder(v, Number(at.number)))],
  planRelease: [['designer'], (v) => m.releases.planRelease(v, { id: at.item, version: 1, note: '' })],
  agreeRelease: [['designer'], (v) => m.releases.agreeRelease(v, crypto.randomUUID())],
  takeReleaseBack: [['designer'], (v) => m.releases.takeReleaseBack(v, crypto.randomUUID())],
  makePublicLink: [['designer'], (v) => m.outside.makePublicLink(v, at.item)],
  closePublicLink: [['designer'], (v) => m.outside.closePublicLink(v, at.item)],
  publicLinkOf: [['designer'], (v) => seen(m.outside.publicLinkOf(v, at.item))],
  releaseOf: [['designer'], (v) => seen(m.workshop.releaseOf(v, at.item))],
  createHours: [['designer'], (v, who) => m.hours.createHours(v, { name: `Hours of ${who}` })],
  changeHours: [['designer'], (v) => m.hours.changeHours(v, { id: at.hours, version: 9, definition: usualHours('utc') })],
  giveHours: [['designer'], (v) => m.hours.giveHours(v, { id: at.hours, teams: [], places: [], everywhere: false })],
  allHours: [['designer'], (v) => seen(m.readHours.allHours(v))],
  hoursOf: [['designer'], (v) => seen(m.readHours.hoursOf(v, at.hours))],
  // Tickets: what is reported, worked on and read.
  reportTicket: [all, (v, who) => m.report.reportTicket(v, { kindId: at.kind, subject: 'x', words: 'y', answers: {}, idempotencyKey: who })],
  likelyAnswers: [all, (v) => seen(m.likely.likelyAnswers(v, 'tablet'))],
  writeOnTicket: [
    ['administrator', ...team],
    (v, who) => m.tickets.writeOnTicket(v, { number: Number(at.ticket), words: 'x', inside: false, once: who }),
  ],
  giveTicket: [['administrator', ...team], (v) => m.tickets.giveTicket(v, { number: Number(at.ticket), team: w.teamId })],
  judgeTicket: [['administrator', ...team], (v) => m.tickets.judgeTicket(v, { number: Number(at.ticket), impact: 'one', urgency: 'soon' })],
  sayWhetherHelped: [['requester'], (v) => m.tickets.sayWhetherHelped(v, { number: Number(at.ticket), helped: true })],
  joinTicket: [['administrator', ...team], (v) => m.related.joinTicket(v, { number: Number(at.ticket), other: 'T-999999' })],
  // Of one at no gate: that nobody is asked is told to those who act on it.
  takeBackAsking: [['administrator', ...team], (v) => m.asking.takeBackAsking(v, { number: Number(at.ticket) })],
  partTicket: [readers, (v) => m.related.partTicket(v, { number: Number(at.ticket) })],
  splitTicket: [['administrator', ...team], (v, who) => m.related.splitTicket(v, { number: Number(at.ticket), subject: 'x', words: 'y', once: who })],
  linkTicket: [['administrator', ...team], (v) => m.related.linkTicket(v, { number: Number(at.ticket), other: at.number })],
  // Of one's own request only.
  linkBegun: [[], (v) => m.related.linkBegun(v, { ticket: Number(at.ticket), request: 999_999 })],
  readsTicket: [
    ['administrator', 'designer', 'auditor', 'teamMember', ...team],
    async (v) => {
      await m.readers.readsTicket(v, { number: Number(at.ticket), now: 'reads' });
      return seen(w.query('select from ticket_reader where person_id = $1', [v.id]));
    },
  ],
  actOnSeveral: [
    ['administrator', ...team],
    async (v) => {
      const { refused } = await m.several.actOnSeveral(v, { entries: [`T-${at.ticket}`], act: 'note', words: 'x', once: v.id });
      return refused.length === 0 ? { ok: true } : { ok: false, code: 'not-allowed' };
    },
  ],
  ticketList: [readers, (v) => seen(m.ticketLists.ticketList(v, askedOf('tickets')))],
  ticketListCount: [readers, (v) => seen(m.ticketLists.ticketListCount(v, askedOf('tickets')))],
  versionsOf: [['designer'], (v) => seen(m.versions.versionsOf(v, 'kind', at.kind))],
  versionOf: [['designer'], (v) => seen(m.versions.versionOf(v, 'kind', at.kind, { version: 2 }))],
  openWay: [['designer'], (v) => m.intake.openWay(v, {})],
  changeWay: [['designer'], (v) => m.intake.changeWay(v, { id: crypto.randomUUID(), version: 1, way: {} })],
  closeWay: [['designer'], (v) => m.intake.closeWay(v, { id: at.way })],
  waysListed: [['designer'], (v) => seen(m.ways.waysListed(v))],
  ticketFor: [['administrator', 'designer', 'auditor', 'teamMember', ...team], (v) => seen(m.readTickets.ticketFor(v, Number(at.ticket)))],
  readsTickets: [readers, (v) => ({ ok: m.whoseTickets.readsTickets(v), code: 'not-allowed' })],
  // Everybody has reported one above.
  myTickets: [all, (v) => seen(m.readTickets.myTickets(v))],
  myCases: [all, (v) => seen(m.mine.myCases(v))],
  myTicket: [['requester'], (v) => seen(m.readTickets.myTicket(v, Number(at.ticket)))],
  createKind: [['designer'], (v, who) => m.kinds.createKind(v, { name: `Kind of ${who}` })],
  changeKind: [['designer'], (v) => m.kinds.changeKind(v, { id: at.kind, version: 99, definition: shippedKinds[0] })],
  kindsListed: [['designer'], (v) => seen(m.readKinds.kindsListed(v))],
  kindFor: [['designer'], (v) => seen(m.readKinds.kindFor(v, at.kind))],
  routings: [['designer'], (v) => seen(m.readRouting.routings(v))],
  routingOf: [['designer'], (v) => seen(m.readRouting.routingOf(v, at.routing))],
  wouldMove: [['designer'], async (v) => seen(m.readRouting.wouldMove(v, at.routing, await routingTable()))],
  takenBy: [['designer'], async (v) => seen(m.readRouting.takenBy(v, await routingTable()).then((taken) => taken?.rows))],
  actsOnTicket: [['administrator', ...team], (v) => seen(m.readTickets.actsOnTicket(v, Number(at.ticket)))],
  routeTicketsBy: [['designer'], (v) => m.routing.routeTicketsBy(v, at.routing)],
  createRouting: [['designer'], (v, who) => m.routing.createRouting(v, { name: `Routing of ${who}`, team: w.teamId })],
  changeRouting: [['designer'], (v) => m.routing.changeRouting(v, { id: crypto.randomUUID(), version: 1, definition: {} })],
  pictureCategory: [['designer'], (v) => m.categories.pictureCategory(v, { path: 'Access', picture: 'key' })],
  categoriesOf: [['designer'], (v) => seen(m.readCategories.categoriesOf(v))],
  offeredCategories: [all, (v) => seen(m.offered.offeredCategories(v))],
  answerQuestion: [['requester'], (v) => m.requests.answerQuestion(v, { id: at.question, values: {} })],
  answerByMail: [
    ['requester'],
    async (v) => {
      const [its] = await w.query<{ id: string }>('select id from service_case where number = $1', [Number(at.number)]);
      const taken = await m.answer.answerByMail(v, its!.id, { answers: [], words: '', cameAs: '<roles@x.example>' });
      return { ok: taken !== undefined, code: 'not-found' };
    },
  ],
  decide: [['approver'], (v) => m.approvals.decide(v, { approvalId: at.approval, decision: 'sendBack', comment: 'x' })],
  decisionCount: [['auditor', 'administrator'], (v) => seen(m.evidence.decisionCount(v, askedOf('decisions')))],
  takeTask: [['administrator', ...team], (v) => m.tasks.takeTask(v, { id: at.task, give: true })],
  correctRequest: [['administrator', ...team], (v) => m.tasks.correctRequest(v, { id: at.task, values: {} })],
  handOver: [['administrator', ...team], (v) => m.tasks.handOver(v, { id: at.task, team: w.teamId })],
  writeFromTask: [['administrator', ...team], (v) => m.tasks.writeFromTask(v, { id: at.task, words: 'Soon' })],
  writeOnRequest: [
    ['administrator', 'approver', ...team],
    (v) => m.conversation.writeOnRequest(v, { number: Number(at.number), words: 'Soon', once: '' }),
  ],
  saveTask: [
    ['administrator', ...team],
    async (v) => {
      const saved = await m.tasks.saveTask(v, { id: at.task, values: {}, checked: [] });
      // Who saves has taken it; it is everybody's in the team again for the next.
      if (saved.ok) await m.tasks.takeTask(v, { id: at.task, give: true });
      return saved;
    },
  ],
  finishTask: [['administrator', ...team], (v) => m.tasks.finishTask(v, { id: at.task, values: {}, checked: [] })],
  mayTakeOver: [['administrator', ...technicians], (v) => ({ ok: m.whoseTasks.mayTakeOver(v), code: 'not-allowed' })],
  addToRequest: [
    ['administrator', 'technician'],
    (v, who) =>
      m.additions.addToRequest(v, {
        number: Number(at.number),
        kind: 'task',
        name: `By ${who}`,
        instructions: 'x',
        person: w.id('dan'),
        to: 'end',
      }),
  ],
  retryStep: [
    ['administrator', ...technicians],
    async (v) => {
      const tried = await m.stuck.retryStep(v, stuck());
      if (tried.ok) await stick();
      return tried;
    },
  ],
  skipStep: [['administrator'], (v) => m.stuck.skipStep(v, { ...stuck(), comment: '' })],
  takeOverStep: [['administrator', ...technicians], (v) => m.stuck.takeOverStep(v, { ...stuck(), comment: '', outputs: { already: true } })],
  // What is designed.
  createItem: [['designer'], (v, who) => m.items.createItem(v, { name: `By ${who}` })],
  saveDraft: [['designer'], (v) => m.items.saveDraft(v, { id: at.item, version: 0, draft: blankItem('x') })],
  publish: [['designer'], (v) => m.items.publish(v, { id: at.item, version: 0, note: '' })],
  archiveItem: [['designer'], (v) => m.keeping.archiveItem(v, { id: at.spare, archived: true })],
  deleteItem: [['designer'], (v) => m.keeping.deleteItem(v, at.spare)],
  undeleteItem: [['designer'], (v, who) => m.keeping.undeleteItem(v, { name: `Back by ${who}`, kind: 'item', draft: blankItem(`Back by ${who}`) })],
  createPolicy: [['designer'], (v, who) => m.policies.createPolicy(v, { name: `By ${who}` })],
  changePolicy: [['designer'], (v) => m.policies.changePolicy(v, { id: at.policy, version: 0, definition: blankPolicy, note: '' })],
  decideConsent: [['owner'], (v) => m.consents.decideConsent(v, { id: at.consent, decision: 'approve', comment: '' })],
  keepStaffRule: [
    ['designer'],
    (v, who) =>
      m.staffActs.keepStaffRule(v, { kind: 'moves', version: 0, rule: { item: at.item, asks: who === 'designer' ? w.id('ina') : 'x', answers: [] } }),
  ],
  dropStaffRule: [['designer'], (v) => m.staffActs.dropStaffRule(v, { kind: 'stays', version: 9 })],
  readFeedNow: [['designer', 'administrator'], (v) => m.staffActs.readFeedNow(v)],
  followHappenings: [['designer', 'administrator'], (v) => m.staffActs.followHappenings(v, { ids: [] })],
  // What an administrator keeps.
  setSystemOwners: [['administrator'], (v) => m.consents.setSystemOwners(v, { system: 'directory', people: [w.id('ina')] })],
  keepUserNames: [['administrator'], (v) => m.userNames.keepUserNames(v, { version: 0, rule: { form: 'given', most: 20, domain: '' } })],
  keepWebSystem: [['administrator'], (v, who) => m.systems.keepWebSystem(v, { definition: system(`By ${who}`), secret: '' })],
  settleSetAside: [['administrator'], (v) => m.aside.settleSetAside(v, { id: at.aside, how: 'again' })],
  addLocation: [['administrator'], (v, who) => m.organisation.addLocation(v, { name: `By ${who}`, kind: 'site' })],
  addTeam: [['administrator'], (v, who) => m.organisation.addTeam(v, { name: `By ${who}`, members: [] })],
  setPersonFacts: [['administrator'], (v) => m.organisation.setPersonFacts(v, [])],
  setPassword: [['administrator'], (v) => m.organisation.setPassword(v, { personId: w.id('tor'), password: 'skerry light 7' })],
  grantRole: [['administrator'], (v) => m.organisation.grantRole(v, { personId: w.id('runa'), role: 'auditor', granted: false })],
  // One's own account: of the session and password of nobody else.
  changePassword: [all, (v) => m.session.changePassword(v, { now: 'x', next: 'y', cookie: 'c', address: v.id })],
  endOwnSession: [all, (v) => m.session.endOwnSession(v, 'others', 'c')],
  // Equipment: who keeps it, who arranges it, who has it.
  counterCount: [keepers, (v) => seen(m.readEquipment.counterCount(v))],
  pickPiece: [keepers, (v) => m.equipment.pickPiece(v, { issue: at.issue })],
  handPiece: [keepers, (v) => m.equipment.handPiece(v, { issue: at.issue, mark: '' })],
  toConfirm: [['requester'], (v) => seen(m.readEquipment.toConfirm(v))],
  receive: [['requester'], (v) => m.equipment.receive(v, { issue: at.issue })],
  notReceived: [['requester'], (v) => m.equipment.notReceived(v, { issue: at.issue, why: 'x' })],
  takeIn: [keepers, (v) => m.equipment.takeIn(v, { issue: at.issue, place: at.stockPlace, how: 'fine', note: '' })],
  addArrived: [keepers, (v) => m.stock.addArrived(v, { kind: at.equipmentKind, place: at.stockPlace, marks: '', number: '1' })],
  countStock: [keepers, (v) => m.stock.countStock(v, { kind: at.equipmentKind, place: at.stockPlace, marks: '', number: '1', book: false })],
  changePiece: [keepers, (v) => m.stock.changePiece(v, { piece: at.piece, state: 'repair', note: '' })],
  orderStock: [keepers, (v) => m.stock.orderStock(v, { order: at.order, drop: true, reference: '', expected: '' })],
  addEquipmentKind: [['designer', 'administrator'], (v, who) => m.arrangeStock.addEquipmentKind(v, { name: `Kind of ${who}`, marked: 'each' })],
  keepStockAt: [['designer', 'administrator'], (v) => m.arrangeStock.keepStockAt(v, { place: at.stockPlace, team: w.teamId })],
  setStockLevel: [
    ['designer', 'administrator'],
    (v) => m.arrangeStock.setStockLevel(v, { kind: at.equipmentKind, place: at.stockPlace, least: '', upTo: '' }),
  ],
  mayArrangeStock: [['designer', 'administrator'], (v) => seen(Promise.resolve(m.whoseStock.mayArrangeStock(v)))],
  stockArrangement: [['designer', 'administrator'], (v) => seen(m.readEquipment.stockArrangement(v))],
  placesKept: [keepers, (v) => seen(m.whoseStock.placesKept(v))],
  seesStock: [keepers, (v) => seen(m.readEquipment.seesStock(v))],
  counterOf: [keepers, (v) => seen(m.readEquipment.counterOf(v))],
  stockFor: [keepers, (v) => seen(m.readEquipment.stockFor(v))],
  readsPieces: [[...keepers, 'designer', 'auditor'], (v) => seen(m.readEquipment.readsPieces(v))],
  pieceList: [[...keepers, 'designer', 'auditor'], (v) => seen(m.listEquipment.pieceList(v, askedOf('pieces')))],
  pieceCount: [[...keepers, 'designer', 'auditor'], (v) => seen(m.listEquipment.pieceCount(v, askedOf('pieces')))],
  pieceFor: [[...keepers, 'designer', 'auditor'], (v) => seen(m.listEquipment.pieceFor(v, at.piece))],

  // Evidence.
  decisionList: [['auditor', 'administrator'], (v) => seen(m.evidence.decisionList(v, askedOf('decisions')).then((page) => page !== undefined))],
  nameFilesSo: [['auditor', 'administrator'], (v) => m.fileNaming.nameFilesSo(v, { pattern: '{day}' })],

  // What is read.
  holdingList: [readers, (v) => seen(m.listHoldings.holdingList(v, askedOf('holdings')).then((page) => page !== undefined))],
  holdingCount: [readers, (v) => seen(m.listHoldings.holdingCount(v, askedOf('holdings')))],
  exceptFrom: [['approver'], (v) => m.apart.exceptFrom(v, { id: at.pair, person: w.id('ina'), until: '', why: 'x' })],
  endException: [['approver'], (v) => m.apart.endException(v, { id: at.exception })],
  keepApart: [
    ['designer', 'administrator'],
    (v) => m.apart.keepApart(v, { one: w.groupId('tide-models'), other: w.groupId('orphan-files'), why: 'x', excepters: [w.id('boss')] }),
  ],
  endApart: [['designer', 'administrator'], (v) => m.apart.endApart(v, { id: at.pair, again: false })],
  mayKeepApart: [['designer', 'administrator'], (v) => seen(Promise.resolve(m.readApart.mayKeepApart(v)))],
  apartFor: [['designer', 'auditor', 'administrator', 'approver'], (v) => seen(m.readApart.apartFor(v))],
  seesApart: [['designer', 'auditor', 'administrator', 'approver'], (v) => seen(m.readApart.seesApart(v))],
  // Nobody owns it; olav owns another.
  groupFor: [['designer', 'auditor', 'administrator'], (v) => seen(m.readGroups.groupFor(v, w.groupId('orphan-files')))],
  groupsFor: [[...outsiders, 'owner'], (v) => seen(m.readGroups.groupsFor(v))],
  seesGroups: [[...outsiders, 'owner'], (v) => seen(m.readGroups.seesGroups(v))],
  readsAllGroups: [['designer', 'auditor', 'administrator'], (v) => seen(Promise.resolve(m.whoseGroups.readsAllGroups(v)))],
  keepCondition: [
    ['administrator'],
    (v) => m.groups.keepCondition(v, { group: w.groupId('orphan-files'), version: 0, members: '[{"department":"Nowhere"}]', why: 'x' }),
  ],
  agreeToMoving: [['administrator'], (v) => m.groups.agreeToMoving(v, { group: w.groupId('orphan-files'), in: 0, out: 0 })],
  letInAgain: [['administrator'], (v) => m.groups.letInAgain(v, { group: w.groupId('orphan-files'), person: w.id('tor') })],
  endCondition: [['administrator'], (v) => m.groups.endCondition(v, { group: w.groupId('orphan-files'), version: 1, out: false })],
  heldChoices: [['requester'], (v) => seen(m.heldChoices.heldChoices(v, { gave: 'directory.addMember', lent: false, whom: '', q: '' }))],
  itemsAbout: [all, (v) => seen(m.itemsAbout.itemsAbout(v, ['directory.addMember'], false).then((found) => [...found.keys()]))],
  begunAbout: [['requester'], (v) => seen(m.itemsAbout.begunAbout(v, aboutAccess, at.holding))],
  holdingFor: [readers, (v) => seen(m.listHoldings.holdingFor(v, at.holding))],
  differenceList: [readers, (v) => seen(m.differences.differenceList(v, askedOf('differences')))],
  differenceCount: [readers, (v) => seen(m.differences.differenceCount(v, askedOf('differences')))],
  differenceFor: [readers, (v) => seen(m.differences.differenceFor(v, at.difference))],
  staffList: [['designer', 'administrator'], (v) => seen(m.staffLists.staffList(v, askedOf('staff')).then((page) => page !== undefined))],
  staffCount: [[], (v) => seen(m.staffLists.staffCount(v, askedOf('staff')))],
  staffFeedFor: [['designer', 'administrator'], (v) => seen(m.readStaff.staffFeedFor(v))],
  staffRuleFor: [['designer'], (v) => seen(m.readStaff.staffRuleFor(v, 'starts', undefined))],
  readings: [readers, (v) => seen(m.differenceReadings.readings(v))],
  askReading: [['administrator'], (v) => m.differenceActs.askReading(v, 'directory')],
  leaveAll: [['administrator'], (v) => m.differenceActs.leaveAll(v, { system: 'none', why: 'x', foundBy: '2026-01-01T00:00:00Z' })],
  settleDifference: [['administrator'], (v) => m.differenceActs.settleDifference(v, { id: at.difference, how: 'leave', why: 'x', person: '' })],
  thingsHeld: [['requester'], (v) => seen(m.holdings.thingsHeld(v, 'mine').then((p) => p.rows))],
  otherGroups: [[], (v) => seen(m.holdings.otherGroups(v))],
  // Owners of a group and managers: server/holdings/giving-back.test.ts; the one who is tried here is nobody's.
  giveBack: [['administrator', 'requester'], (v) => m.endings.giveBack(v, { id: at.holding, why: 'x' })],
  // Managers: server/notes/notes.test.ts; the one who is tried here is nobody's.
  // Those who are invited: server/meetings/meetings.test.ts.
  meetingFor: [['requester'], (v) => seen(m.readMeetings.meetingFor(v, at.meeting))],
  meetingsAhead: [['requester'], (v) => seen(m.readMeetings.meetingsAhead(v))],
  sayComing: [['requester'], (v) => m.meetings.sayComing(v, { meetingId: at.meeting, says: 'yes', words: '', sequence: 0 })],
  noteFor: [['administrator', 'requester'], (v) => seen(m.notes.noteFor(v, at.note))],
  notesWaiting: [['requester'], (v) => seen(m.notes.notesWaiting(v))],
  makeAnew: [['administrator', 'requester'], (v) => m.noteCommands.makeAnew(v, { id: at.note })],
  openNote: [['requester'], (v) => m.noteCommands.openNote(v, { id: at.note })],
  ownsGroups: [['owner', ...outsiders], (v) => seen(m.holdings.ownsGroups(v))],
  hasPeople: [['approver'], (v) => seen(m.holdings.hasPeople(v))],
  myRequests: [['requester'], (v) => seen(m.counter.myRequests(v))],
  answersAgain: [['requester'], (v) => seen(m.counter.answersAgain(v, Number(at.number), { fields: [] }))],
  myRequest: [['requester'], (v) => seen(m.counter.myRequest(v, Number(at.number)))],
  approvalsFor: [['approver'], async (v) => seen(m.listApprovals.approvalsFor(v, askedOf('approvals')).then((found) => found.rows))],
  isRequesterOf: [['requester'], (v) => seen(m.counter.isRequesterOf(v, Number(at.number)))],
  approvalFor: [['approver'], (v) => seen(m.desk.approvalFor(v, at.approval))],
  queueFor: [team, (v) => seen(m.listQueue.queueFor(v, askedOf('queue')).then((found) => found.rows))],
  queueCount: [team, (v) => seen(m.listQueue.queueCount(v, askedOf('queue')))],
  approvalCount: [['approver'], (v) => seen(m.listApprovals.approvalCount(v, askedOf('approvals')))],
  taskFor: [['administrator', ...team], (v) => seen(m.readTasks.taskFor(v, at.task))],
  stuckSteps: [['administrator', ...technicians], (v) => seen(m.readStuck.stuckSteps(v, askedOf('stuck')))],
  stuckCount: [['administrator', ...technicians], (v) => seen(m.readStuck.stuckCount(v, askedOf('stuck')))],
  consentsFor: [['owner'], (v) => seen(m.readConsents.consentsFor(v))],
  ownsSystems: [['owner'], (v) => seen(m.readConsents.ownsSystems(v))],
  setAsideFor: [['administrator'], (v) => seen(m.readAside.setAsideFor(v))],
  items: [['designer'], (v) => seen(m.listItems.items(v, 'item', askedOf('items')))],
  draftAsRevision: [['designer'], (v) => seen(m.workshop.draftAsRevision(v, at.item, 1))],
  differencesBetween: [['designer'], (v) => seen(m.workshop.differencesBetween(v, at.item, 1, undefined))],
  draftOf: [['designer'], (v) => seen(m.workshop.draftOf(v, at.item))],
  policies: [['designer'], (v) => seen(m.listPolicies.policies(v, askedOf('policies')))],
  policyOf: [['designer'], (v) => seen(m.readPolicies.policyOf(v, at.policy))],
  tables: [['designer'], (v) => seen(m.listTables.tables(v, askedOf('tables')))],
  tableOf: [['designer'], (v) => seen(m.readTables.tableOf(v, w.machine.table))],
  readingOf: [['designer'], (v) => seen(m.readTables.readingOf(v, at.readTable))],
  askTableRead: [['designer'], (v) => m.tables.askTableRead(v, { table: at.readTable })],
  itemsForRows: [['designer'], (v) => seen(m.listsForTables.itemsForRows(v, at.readTable))],
  listsOffered: [['designer'], (v) => seen(m.listsForTables.listsOffered(v))],
  tableUses: [['designer'], (v) => seen(m.readTables.tableUses(v, w.machine.table))],
  rowsOf: [['designer'], (v) => seen(m.readTables.rowsOf(v, w.machine.table, { words: '', off: false }))],
  rowOf: [['designer'], (v) => seen(m.readTables.rowOf(v, w.machine.table, 'Large'))],
  // A published form offers its rows.
  findRows: [all, (v) => seen(m.readTables.findRows(v, w.machine.table, 'large'))],
  rowCalled: [all, (v) => seen(m.readTables.rowCalled(v, w.machine.table, 'large'))],
  createTable: [['designer'], (v) => m.tables.createTable(v, { name: 'Another table' })],
  changeTable: [['designer'], async (v) => m.tables.changeTable(v, { id: w.machine.table, version: 2, definition: await machines() })],
  saveRow: [
    ['designer'],
    (v) => m.tables.saveRow(v, { table: w.machine.table, cells: { size: 'Huge', processors: 64, keeper: { person: w.id('ina') } } }),
  ],
  takeRowsOff: [['designer'], (v) => m.tables.takeRowsOff(v, { table: w.machine.table, keys: ['Huge'] })],
  bringRowsBack: [['designer'], (v) => m.tables.bringRowsBack(v, { table: w.machine.table, keys: ['Huge'] })],
  readSheet: [['designer'], (v) => m.sheet.readSheet(v, { table: w.machine.table, text: 'Size\nSmall' })],
  importSheet: [['designer'], (v) => m.sheet.importSheet(v, { table: w.machine.table, text: 'Size,Processors\nSmall,2' })],
  tableHistory: [['designer'], (v) => seen(m.history.tableHistory(v, w.machine.table))],
  tableAt: [['designer'], (v) => seen(m.history.tableAt(v, w.machine.table, '2199-01-01').then((found) => found?.rows))],
  takeChangeBack: [
    ['designer'],
    async (v) => {
      const taken = await m.history.takeChangeBack(v, { table: w.machine.table, change: 0 });
      // There is no such change; who may not change the table is told that first.
      return taken.ok || taken.sentence.startsWith('This change') ? { ok: true } : taken;
    },
  ],
  gridOf: [['designer'], (v) => seen(m.grid.gridOf(v, w.machine.table))],
  changeCells: [['designer'], (v) => m.grid.changeCells(v, { table: w.machine.table, edits: [], take: 'rest' })],
  // Of those whom the group that keeps a table has: none in this table of roles; server/tables/grid.test.ts tries them.
  myTables: [[], async (v) => seen(m.readTables.myTables(v))],
  writtenSheet: [['designer'], (v) => seen(m.sheet.writtenSheet(v, w.machine.table))],
  // Kept for oneself; what is refused is refused for what is in it.
  keepFile: [all, (v) => m.files.keepFile(v, { name: 'a.txt', stream: Readable.from(['x']) })],
  fileFor: [['requester'], (v) => seen(m.readFiles.fileFor(v, at.file))],
  namesOfOwn: [['requester'], async (v) => seen(m.readFiles.namesOfOwn(v, [at.file]).then((names) => Object.keys(names)))],
  systems: [['designer', 'administrator'], (v) => seen(m.listSystems.systems(v, askedOf('systems')))],
  userNamesFor: [['designer', 'administrator'], (v) => seen(m.userNames.userNamesFor(v))],
  systemFor: [['designer', 'administrator'], (v) => seen(m.readSystems.systemFor(v, 'directory'))],
  mayReadLedger: [readers, (v) => ({ ok: m.ledger.mayReadLedger(v), code: 'not-allowed' })],
  ledger: [readers, (v) => seen(m.listLedger.ledger(v, askedOf('ledger')))],
  ledgerCount: [readers, (v) => seen(m.listLedger.ledgerCount(v, askedOf('ledger')))],
  trace: [readers, (v) => seen(m.ledger.trace(v, Number(at.number)))],
  mayReadLog: [['auditor', 'administrator'], (v) => ({ ok: m.changes.mayReadLog(v), code: 'not-allowed' })],
  changes: [['auditor', 'administrator'], (v) => seen(m.changes.changes(v, askedOf('changes')))],
  decisionsOnPaper: [['auditor', 'administrator'], (v) => seen(m.evidencePaper.decisionsOnPaper(v, askedOf('decisions')))],
  changeOf: [['auditor', 'administrator'], (v) => seen(m.changes.changeOf(v, 1))],
  findAnything: [['requester', ...readers], (v) => seen(m.findAll.findAnything(v, `R-${at.number}`))],
  foreseen: [all, async (v) => seen(m.foreseen.foreseen(v, { id: at.item, definition: await definition() }, { reason: 'x' }))],
  begunFor: [all, async (v) => seen(m.foreseen.begunFor(v, { id: at.item, definition: await definition() }, {}))],
  readImport: [['designer'], (v) => m.bundles.readImport(v, { text: '', chosen: {} })],
  importBundle: [['designer'], (v) => m.bundles.importBundle(v, { text: '', chosen: {} })],
  takeImportBack: [['designer'], (v) => m.bundles.takeImportBack(v, crypto.randomUUID())],
  writtenBundle: [['designer'], (v) => seen(m.readBundles.writtenBundle(v, at.item, true))],
  importsLately: [['designer'], (v) => seen(m.readBundles.importsLately(v).then((lately) => lately && [lately]))],
  underWayBy: [['designer'], (v) => seen(m.goingOver.underWayBy(v, at.item).then((open) => Object.keys(open)))],
  requestsBehind: [['designer'], (v) => seen(m.goingOver.requestsBehind(v, at.item))],
  goOver: [['designer'], (v) => m.goingOver.goOver(v, { itemId: at.item, to: 1 })],
  browse: [all, (v) => seen(m.offered.browse(v, ''))],
  askedBefore: [all, (v) => seen(m.offered.askedBefore(v).then((found) => found.most))],
  offeredItem: [all, (v) => seen(m.offered.offeredItem(v, at.item))],
  findItems: [all, (v) => seen(m.offered.findItems(v, ''))],
  previewFor: [['designer'], (v) => seen(m.preview.previewFor(v, { id: at.item, person: v.id, answers: {} }))],
  letterPreview: [['designer'], (v) => seen(m.letters.letterPreview(v, { item: at.written, step: 'letter' }))],
  keepView: [all, (v) => m.views.keepView(v, { list: 'ledger', asked: '', name: 'Mine' })],
  keptViews: [all, (v) => seen(m.views.keptViews(v, 'ledger'))],
  forgetView: [[], (v) => m.views.forgetView(v, at.view)],
  sessionsOf: [[], (v) => seen(m.viewers.sessionsOf(v, 'c'))],
  // Last, since nothing is open after it.
  withdrawRequest: [['requester'], (v) => m.requests.withdrawRequest(v, { number: Number(at.number) })],
};

/** What takes a viewer and decides nothing by itself: conditions for queries, and what commands above call. */
const partsOfOthers = [
  'keepsRows',
  'tablesKeptBy',
  'mine',
  'mayConsent',
  'keepsAt',
  'maySeeInside',
  'mayOpen',
  'hasPartIn',
  'asksOf',
  'whyNotAsk',
  'whomOf',
  'caseLines',
  'today',
];
const blankPolicy = { name: 'Machines', purpose: '', inputs: [], lines: [] };
const machines = async () => (await m.readTables.tableOf(w.viewer('dan', 'designer'), w.machine.table))!.definition;
const routingTable = async () => (await m.readRouting.routingOf(w.viewer('dan', 'designer'), at.routing))!.definition;
const definition = async () => (await m.offered.offeredItem(w.viewer('tor'), at.item))!.definition;

beforeAll(async () => {
  w = await world();
  const good = <T extends object>(r: { ok: boolean } & T): T => {
    if (!r.ok) throw new Error(JSON.stringify(r));
    return r;
  };
  await m.organisation.setPassword('host', { personId: w.id('tor'), password: 'skerry light 7' });
  const branch = (id: string, ...block: ReturnType<typeof step>[]) => ({ id, name: id, block });
  const { id, number } = await w.askPlan({
    steps: [
      step('together', 'all', {
        join: 'all',
        branches: [
          branch(
            'one',
            step('gate', 'g', {
              approvers: { from: 'people', people: [{ person: 'ada' }] },
              rule: { rule: 'all' },
              ownRequest: 'allow',
              nobody: { then: 'fail' },
            }),
          ),
          branch(
            'two',
            step('task', 't', {
              assignee: { team: 'desk' },
              instructions: passages('Do it'),
              checklist: [{ id: 'a', words: 'First' }],
              fields: [],
            }),
          ),
          branch(
            'three',
            step('askBack', 'q', { question: sentence('What size?'), fields: [{ id: 'answer', kind: 'text', label: 'Size', required: true }] }),
          ),
          branch(
            'four',
            step('provision', 'p', {
              action: 'directory.addMember',
              inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
              retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
            }),
          ),
        ],
      }),
      tell('end', 'End'),
    ],
  });
  await stick();
  const one = async (text: string, values: unknown[] = []) => (await w.query<{ id: string }>(text, values))[0]!.id;
  const designer = w.viewer('dan', 'designer');
  good(await m.consents.setSystemOwners('host', { system: 'directory', people: [w.id('ina')] }));
  const wants = good(
    await m.items.createItem(designer, {
      name: 'Wants consent',
      copyOf: await one('select k.item_id as id from run r join service_case k on k.id = r.case_id where r.id = $1', [id]),
    }),
  );
  await m.items.publish(designer, { id: (wants as { id: string }).id, version: 1, note: '' });
  const policy = good(await m.policies.createPolicy(designer, { name: 'Machines' })) as { id: string };
  await w.item('Access for longer', { steps: [tell('end', 'End')] }, aboutAccess);
  const kit = await ticketKit(w);
  await putAside(w.db(), { source: 'mail', key: 'm', what: 'A mail', cause: 'None', payload: {} });
  const harbour = good<{ id: string }>(
    (await m.systems.keepWebSystem(w.viewer('boss', 'administrator'), {
      definition: {
        ...system('Harbour'),
        lists: [{ id: 'berths', label: 'Berths', path: '/berths', rows: '', columns: [{ name: 'id', label: 'Berth', at: '/id' }] }],
      },
      secret: '',
    })) as never,
  );
  const berths = good<{ id: string }>((await m.tables.createTable(designer, { name: 'Berths' })) as never);
  const from = { system: harbour.id, list: 'berths', columns: [{ column: 'name', of: 'id' }], every: 'PT1H' };
  good(await m.tables.changeTable(designer, { id: berths.id, version: 1, definition: { ...blankTable('Berths'), from } }));
  at = {
    request: id,
    number: String(number),
    approval: (await w.approvals(id))[0]!.id,
    task: await one('select id from task where run_id = $1', [id]),
    question: await one('select id from question where run_id = $1', [id]),
    consent: await one("select id from consent where status = 'waiting'"),
    aside: await one('select id from set_aside'),
    item: await one('select k.item_id as id from run r join service_case k on k.id = r.case_id where r.id = $1', [id]),
    policy: policy.id,
    readTable: berths.id,
    ticket: String(await kit.report('tor')),
    kind: kit.kindId,
    routing: await one('select id from routing_table limit 1'),
    way: await one("insert into intake_way (via, name, kind_id) select 'mail', 'desk', id from ticket_kind limit 1 returning id"),
    hours: await one(
      `insert into service_hours (name, definition) values ('Any', '${JSON.stringify(keptDocument(hoursFormat, usualHours('utc')))}') returning id`,
    ),
    release: await one(`insert into item_release (item_id, definition, content_hash, asked_by, wants_second)
      select item_id, definition, 'x', published_by, false from revision where item_id = (select item_id from service_case limit 1) returning id`),
    line: await one(
      `insert into basket_line (person_id, item_id, revision, answers) select $1, item_id, 1, '{}' from service_case limit 1 returning id`,
      [w.id('tor')],
    ),
    file: (good(await m.files.keepFile(w.viewer('tor'), { name: 'mine.txt', stream: Readable.from(['x']) })) as { file: { id: string } }).file.id,
    written: (await w.item('A letter', writes)).id,
    spare: good<{ id: string }>((await m.items.createItem(designer, { name: 'To be deleted' })) as never).id,
    holding: await one(
      `insert into holding (person_id, kind, what, run_id, key, since, action) values ($1, 'group', $2, $3, 'given#1', now(), 'directory.addMember') returning id`,
      [w.id('tor'), JSON.stringify({ group: w.groupId('orphan-files') }), id],
    ),
    decided: await one(
      `with its as (insert into gate (run_id, key, name, rule, opened_at) values ($1, 'over#1', 'Over', '{"rule":"any"}', now()) returning id)
        insert into approval (gate_id, person_id, status, asked_at, decided_at) select id, $2, 'approved', now(), now() from its returning id`,
      [id, w.id('boss')],
    ),
    pair: await one(
      "insert into kept_apart (one_id, other_id, why, excepters, changed_at) values ($1, $1, 'x', array[$2::uuid], now()) returning id",
      [w.groupId('tide-models'), w.id('boss')],
    ),
    exception: await one(
      "insert into apart_exception (pair_id, person_id, why, by_id, at) select id, $1, 'x', $2, now() from kept_apart returning id",
      [w.id('tor'), w.id('boss')],
    ),
    stockPlace: await one('insert into stock_place (location_id, team_id) select id, $1 from location limit 1 returning location_id as id', [
      w.teamId,
    ]),
    equipmentKind: await one("insert into equipment_kind (name, marked, changed_at) values ('Cable', false, now()) returning id"),
    piece: await one(
      "insert into piece (kind_id, location_id, state, since) select k.id, s.location_id, 'setAside', now() from equipment_kind k, stock_place s returning id",
    ),
    issue: await one(
      `insert into equipment_issue (key, kind_id, person_id, state, piece_id, created_at)
        select 'x', kind_id, $1, 'setAside', id, now() from piece returning id`,
      [w.id('tor')],
    ),
    order: await one(
      `insert into stock_order (kind_id, location_id, wanted, state, created_at, changed_at)
        select kind_id, location_id, 1, 'toOrder', now(), now() from piece returning id`,
    ),
    difference: await one(
      `insert into difference (system, action, kind, what, person_id, "is", outputs, found_at, seen_at)
        values ('directory', 'directory.addMember', 'group', $2, $1, 'unknown', '{}', now(), now()) returning id`,
      [w.id('tor'), JSON.stringify({ group: w.groupId('orphan-files') })],
    ),
    meeting: await one(
      `with made as (
        insert into meeting (run_id, key, round, status, words, title, minutes, "window", waits, sequence, begins_at, ends_at, try_at, created_at)
          select run_id, 'meet#1', 0, 'planned', '{"title": {"text": [], "values": {}}, "body": {"text": [], "values": {}}}', 'Talk', 30, '{"within": 1}', false, 0,
            now() + interval '1 day', now() + interval '25 hours', now(), now() from call limit 1 returning id)
        insert into invited (meeting_id, person_id, token_hash) select id, $1, 'x' from made returning meeting_id as id`,
      [w.id('tor')],
    ),
    note: await one(
      `insert into sealed_note (call_id, run_id, key, person_id, labels, sealed, made_at, open_until)
        select id, run_id, 'given#1', $1, '["Key"]', $2, now(), now() + interval '1 day' from call limit 1 returning id`,
      [w.id('tor'), seal('["of no use"]')],
    ),
    view: await one(`insert into kept_view (person_id, list, name, asked) values ($1, 'ledger', 'Hers', '') returning id`, [w.id('runa')]),
  };
});
afterAll(() => w.close());

describe('who may do what', () => {
  it('the table names every command and query that is for somebody', () => {
    const files = readdirSync('server', { recursive: true, encoding: 'utf8' })
      .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts') && !f.startsWith('testing'))
      .map((f) => readFileSync(`server/${f}`, 'utf8'));
    const named = files.flatMap((text) =>
      [...text.matchAll(/export (?:async function (\w+)(?:<[^(]*>)?|const (\w+) = (?:async )?)\(\s*(?:viewer: (?:Viewer|Roled)|actor: Actor)/g)].map(
        (f) => f[1] ?? f[2]!,
      ),
    );
    // Found by the words of the sources; that they are found at all is part of the test.
    expect(named.length).toBeGreaterThan(40);
    expect(named.filter((n) => !partsOfOthers.includes(n) && n !== 'has').sort()).toEqual(Object.keys(table).sort());
  });

  it.each(Object.keys(table))('%s', async (what) => {
    const [allowed, attempt] = table[what]!;
    // Those who may not go first, so that what those who may change is still there to be refused.
    const order = [...all.filter((who) => !allowed.includes(who)), ...allowed];
    const letIn: string[] = [];
    for (const who of order) {
      const result = await attempt(everybody[who]!(), who);
      if (result.ok || !(result.code === 'not-allowed' || result.code === 'not-found')) letIn.push(who);
    }
    expect(letIn.sort()).toEqual([...allowed].sort());
  });
});

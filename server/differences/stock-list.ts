import { sql } from 'drizzle-orm';
import { lend } from '../systems/equipment/lending.ts';
import type { Theirs } from './compare.ts';
import type { Lists } from './systems.ts';

/** What is handed out, as the stock has it. */
const handedOut: Theirs = sql`select to_jsonb(i.what) as what, i.person_id, i.until,
  jsonb_strip_nulls(jsonb_build_object('what', i.what, 'mark', p.mark, 'from', jsonb_build_object('location', p.location_id), 'issue', 'E-' || i.number)) as outputs,
  i.id::text as job
  from equipment_issue i join piece p on p.id = i.piece_id where i.state in ('out', 'dueBack')`;

export const stockList = { spec: lend.spec as Lists['spec'], theirs: handedOut };

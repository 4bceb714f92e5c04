import { z } from 'zod';
import { Form } from '../forms/index.ts';
import { Plan } from '../plans/index.ts';

/** What a catalog item is: what it asks and what then happens. A draft holds one; a revision freezes one. */
export const ItemDefinition = z.object({
  name: z.string().trim().min(1, 'The item needs a name.').max(80, 'At most 80 characters.'),
  summary: z.string().trim().max(300, 'At most 300 characters.'),
  category: z.string().trim().max(60, 'At most 60 characters.'),
  form: Form,
  plan: Plan,
});
export type ItemDefinition = z.infer<typeof ItemDefinition>;

export const blankItem = (name: string): ItemDefinition => ({ name, summary: '', category: '', form: { fields: [] }, plan: { steps: [] } });

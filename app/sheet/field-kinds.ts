import type { FieldKind } from '../../core/forms/index.ts';

/** The kinds of field as designers read them. */
export const fieldKinds: Record<FieldKind, { label: string; does: string }> = {
  text: { label: 'Text', does: 'One line' },
  longText: { label: 'Long text', does: 'Several lines' },
  formatted: { label: 'Formatted text', does: 'With emphasis, lists and links' },
  number: { label: 'Number', does: 'With bounds and a unit' },
  money: { label: 'Money', does: 'An amount in a currency' },
  date: { label: 'Date', does: 'A day' },
  time: { label: 'Time', does: 'A time of day' },
  yesNo: { label: 'Yes or no', does: 'One or the other' },
  choice: { label: 'Choice', does: 'One of a list' },
  choices: { label: 'Several choices', does: 'Any of a list' },
  person: { label: 'Person', does: 'Somebody in the directory' },
  people: { label: 'People', does: 'Several from the directory' },
  group: { label: 'Group', does: 'A group in the directory' },
  team: { label: 'Team', does: 'A team of the desk' },
  location: { label: 'Place', does: 'A site, a building, a vessel' },
  row: { label: 'Table row', does: 'A row of a reference table' },
  file: { label: 'Attachment', does: 'One file' },
  files: { label: 'Attachments', does: 'Several files' },
  address: { label: 'Mail address', does: 'Somebody outside, too' },
  phone: { label: 'Telephone', does: 'A number to call' },
  holding: { label: 'Something held', does: 'What whoever it is for has been given' },
  lines: { label: 'Lines', does: 'A small table, filled in line by line' },
};

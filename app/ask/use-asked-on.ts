import { useMemo } from 'react';
import { compileHours, type Calendar, type ServiceHours } from '../../core/calendar/index.ts';
import type { AskedOn } from '../../core/forms/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { useToday } from '~/ui/now';

/** The service hours of everybody, by which tests of a form are tried; undefined: the usual ones count. */
export function useDeskOfAll(): Calendar | undefined {
  const { hours } = useEditor().catalogue;
  return useMemo(() => hours && compileHours(hours), [hours]);
}

/** When a form is filled in, and by whose hours, where the server has said so. */
export function useAskedOn(hours: ServiceHours | undefined): AskedOn {
  const today = useToday();
  return useMemo(() => ({ today, ...(hours && { desk: compileHours(hours) }) }), [today, hours]);
}

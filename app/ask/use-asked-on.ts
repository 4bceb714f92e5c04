import { useMemo } from 'react';
import { compileHours, type ServiceHours } from '../../core/calendar/index.ts';
import type { AskedOn } from '../../core/forms/index.ts';
import { useToday } from '~/ui/now';

/** When a form is filled in, and by whose hours, where the server has said so. */
export function useAskedOn(hours: ServiceHours | undefined): AskedOn {
  const today = useToday();
  return useMemo(() => ({ today, ...(hours && { desk: compileHours(hours) }) }), [today, hours]);
}

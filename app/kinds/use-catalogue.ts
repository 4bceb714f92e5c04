import { useMemo, useState } from 'react';
import type { Catalogue } from '../../core/plans/index.ts';
import type { Drafted } from '~/sheet/draft-editor';

/** What gates can name, with what was picked since the page was loaded. */
export function useCatalogue(loaded: Catalogue): Pick<Drafted, 'catalogue' | 'learn'> {
  const [learned, setLearned] = useState<{ people: Catalogue['people']; stated: NonNullable<Catalogue['stated']> }>({ people: {}, stated: {} });
  const catalogue = useMemo(
    () => ({ ...loaded, people: { ...learned.people, ...loaded.people }, stated: { ...learned.stated, ...loaded.stated } }),
    [loaded, learned],
  );
  const learn: Drafted['learn'] = (id, name, kind = 'person') =>
    setLearned((l) => ({
      people: kind === 'person' ? { ...l.people, [id]: { name, active: true } } : l.people,
      stated: { ...l.stated, [`${kind} ${id}`]: name },
    }));
  return { catalogue, learn };
}

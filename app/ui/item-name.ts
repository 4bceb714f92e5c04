import { useEffect, useRef } from 'react';
import { useFetcher } from 'react-router';
import type { loader } from '~/routes/workshop/name';

/** Whether an item's name is free, asked while it is typed. */
export function useNameTaken(name: string, except?: string): string | undefined {
  const { load, data } = useFetcher<typeof loader>();
  const loadRef = useRef(load);
  const wanted = name.trim();
  useEffect(() => {
    if (!wanted) return;
    const wait = setTimeout(
      () => void loadRef.current(`/workshop/items/name?name=${encodeURIComponent(wanted)}${except ? `&except=${except}` : ''}`),
      150,
    );
    return () => clearTimeout(wait);
  }, [wanted, except]);
  return data?.taken && data.name === wanted ? `There is an item called “${wanted}” already. Choose another name.` : undefined;
}

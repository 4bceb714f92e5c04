/** Where a table stands: in the Workshop, or, for those who keep its rows and are no designers, at the Desk. */
export const tableBase = (pathname: string, id: string): string => `${pathname.startsWith('/desk') ? '/desk' : '/workshop'}/tables/${id}`;

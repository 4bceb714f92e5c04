import { clsx } from 'clsx';
import { Link } from 'react-router';

const rooms = [
  { id: 'items', to: '/workshop/items', label: 'Catalog items' },
  { id: 'parts', to: '/workshop/items?kind=part', label: 'Parts' },
  { id: 'policies', to: '/workshop/policies', label: 'Approval policies' },
  { id: 'tables', to: '/workshop/tables', label: 'Reference tables' },
  { id: 'kinds', to: '/workshop/kinds', label: 'Ticket kinds' },
  { id: 'intake', to: '/workshop/intake', label: 'Intake' },
  { id: 'routing', to: '/workshop/routing', label: 'Routing' },
  { id: 'hours', to: '/workshop/hours', label: 'Service hours' },
  { id: 'categories', to: '/workshop/categories', label: 'Categories' },
  { id: 'equipment', to: '/workshop/equipment', label: 'Equipment' },
  { id: 'staff', to: '/workshop/staff', label: 'Staff feed' },
  { id: 'systems', to: '/workshop/systems', label: 'Systems' },
] as const;

/** The lists of the Workshop; for an administrator who does not design, the equipment, the staff feed and the systems only. */
export function WorkshopMargin({ at, designs = true }: { at: (typeof rooms)[number]['id']; designs?: boolean }) {
  return (
    <div className="flex gap-1 overflow-x-auto py-2 md:block md:py-4">
      {rooms
        .filter((r) => designs || r.id === 'systems' || r.id === 'staff' || r.id === 'equipment')
        .map((r) => (
          <Link
            key={r.id}
            to={r.to}
            aria-current={r.id === at ? 'page' : undefined}
            className={clsx(
              'block border-l-3 px-4 py-1.5 whitespace-nowrap hover:text-sea',
              r.id === at ? 'border-sea bg-sea-wash font-medium' : 'border-transparent',
            )}
          >
            {r.label}
          </Link>
        ))}
    </div>
  );
}

import { Outlet } from 'react-router';
import { Frame, MarginLink } from '~/ui/frame';

export default function Desk() {
  return (
    <Frame
      marginLabel="Desk"
      margin={
        <div className="flex gap-1 py-2 md:block md:py-4">
          <MarginLink to="/desk/approvals">Approvals for me</MarginLink>
          <MarginLink to="/desk/tasks">Tasks</MarginLink>
          <MarginLink to="/desk/stuck">Stuck steps</MarginLink>
        </div>
      }
    >
      <Outlet />
    </Frame>
  );
}

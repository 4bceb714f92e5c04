import { index, layout, prefix, route, type RouteConfig } from '@react-router/dev/routes';

export default [
  index('routes/home.ts'),
  route('sign-in', 'routes/sign-in.tsx'),
  route('sign-out', 'routes/sign-out.ts'),
  route('find', 'routes/find.ts'),
  route('views', 'routes/views.ts'),
  route('export/:list', 'routes/export.ts'),
  route('account', 'routes/account.tsx'),
  route('trouble', 'routes/trouble.ts'),
  route('kit', 'routes/kit.tsx'),
  ...prefix('counter', [
    layout('routes/counter/place.tsx', [
      index('routes/counter/browse.tsx'),
      route('ask/:itemId', 'routes/counter/ask.tsx'),
      route('requests', 'routes/counter/requests.tsx'),
      route('requests/:number', 'routes/counter/request.tsx'),
    ]),
    route('agreements/:itemId', 'routes/counter/agreements.ts'),
  ]),
  ...prefix('desk', [
    index('routes/desk/home.ts'),
    route('decide/:token', 'routes/desk/decide.tsx'),
    layout('routes/desk/place.tsx', [
      route('approvals', 'routes/desk/approvals.tsx', [route(':id', 'routes/desk/approval.tsx')]),
      route('tasks', 'routes/desk/tasks.tsx', [route(':id', 'routes/desk/task.tsx')]),
      route('stuck', 'routes/desk/stuck.tsx'),
      route('consents', 'routes/desk/consents.tsx'),
      route('set-aside', 'routes/desk/set-aside.tsx'),
    ]),
  ]),
  ...prefix('workshop', [
    index('routes/workshop/home.ts'),
    route('items', 'routes/workshop/items.tsx'),
    route('policies', 'routes/workshop/policies.tsx'),
    route('policies/:id', 'routes/workshop/policy.tsx'),
    route('tables', 'routes/workshop/tables.tsx'),
    route('tables/:id', 'routes/workshop/table-rows.tsx'),
    route('tables/:id/columns', 'routes/workshop/table-columns.tsx'),
    route('tables/:id/sheet', 'routes/workshop/table-sheet.tsx'),
    route('tables/:id/sheet.csv', 'routes/workshop/table-csv.ts'),
    route('systems', 'routes/workshop/systems.tsx'),
    route('items/name', 'routes/workshop/name.ts'),
    route('items/:id/draft', 'routes/workshop/draft.ts'),
    route('items/:id/bpmn', 'routes/workshop/bpmn.ts'),
    route('items/:id', 'routes/workshop/item.tsx', [
      route('ask', 'routes/workshop/ask.tsx'),
      route('plan', 'routes/workshop/plan.tsx'),
      route('publish', 'routes/workshop/publish.tsx'),
    ]),
  ]),
  ...prefix('ledger', [index('routes/ledger/runs.tsx'), route('changes', 'routes/ledger/changes.tsx'), route(':number', 'routes/ledger/trace.tsx')]),
] satisfies RouteConfig;

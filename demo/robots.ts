import type { WebSystem } from '../core/systems/index.ts';

/** The robots as they are registered: what they can be started for, and what comes back. */
export const robots = (address: string): WebSystem => ({
  name: 'Robots',
  address,
  ownNetwork: true,
  timeoutMs: 5000,
  actions: [
    {
      id: 'resetPassword',
      label: 'Set a new password',
      method: 'POST',
      path: '/robots/reset-password/jobs',
      inputs: [{ name: 'account', label: 'Account', type: 'address', required: true }],
      outputs: [{ name: 'password', label: 'New password', type: 'text', at: '/result/password', always: true, secret: true }],
      later: {
        within: 'PT30M',
        asked: { path: '/jobs/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 60 },
        callsBack: true,
        state: { at: '/state', done: ['done'], failed: ['failed'] },
        progress: '/progress',
        cause: '/cause',
      },
    },
  ],
});

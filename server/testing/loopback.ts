import type { Express } from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';

/** Servers of a test, each on a loopback port of its own. */
export function loopback() {
  const servers: Server[] = [];
  return {
    /** Has something listen; gives its address. */
    listen: async (app: Express): Promise<string> => {
      const server = await new Promise<Server>((up) => {
        const started: Server = app.listen(0, '127.0.0.1', () => up(started));
      });
      servers.push(server);
      return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    },
    /** Ends them all, with what is still open. */
    close: async (): Promise<void> => {
      for (const s of servers) {
        s.closeAllConnections();
        await new Promise((done) => s.close(done));
      }
    },
  };
}

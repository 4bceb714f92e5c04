import express, { type RequestHandler } from 'express';
import { takeCallBack } from '../calls/call-back.ts';
import { config } from '../config.ts';

/** More than this no answer of a system says, in bytes. */
const most = 1_000_000;

/** Systems post their answers here: machines, which carry no session and are known by how they sign. */
export const callBack: RequestHandler[] = [
  express.raw({ type: () => true, limit: most, inflate: false }),
  async (req, res) => {
    const { call: id } = req.params as { call: string };
    const headers = Object.fromEntries(Object.entries(req.headers).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]])));
    const body = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
    // As it was told where to answer: whatever stands before us may have changed what the request says of it.
    const came = await takeCallBack(id, { method: req.method, url: `${config().PUBLIC_URL}${req.originalUrl}`, headers, body });
    if (came.ok) return void res.json({ taken: came.taken });
    // RFC 9457.
    res
      .status(came.status)
      .type('application/problem+json')
      .send(JSON.stringify({ status: came.status, title: 'Not taken', detail: came.sentence }));
  },
];

import type { Result } from '../../server/refusal.ts';
import { attached } from './attached.server';

/** A PDF that was made for whoever asks, to be saved; where it could not be made, why. */
export function pdfResponse(made: Result<{ pdf: Buffer; fileName: string }>): Response {
  if (!made.ok) return new Response(made.sentence, { status: 422, headers: { 'content-type': 'text/plain; charset=utf-8' } });
  return new Response(new Uint8Array(made.pdf), {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': attached(made.fileName),
      'content-security-policy': "default-src 'none'; sandbox",
    },
  });
}

import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';

/** A PDF as a reader of others (pdfjs-dist) reads it: its pages' texts, what it says of itself, and where its links lead. */
export async function readPdf(bytes: Uint8Array): Promise<{ pages: string[]; title: string; links: string[]; wide: boolean }> {
  const task = getDocument({ data: new Uint8Array(bytes), verbosity: 0 });
  const file = await task.promise;
  const pages: string[] = [];
  const links: string[] = [];
  let wide = false;
  for (let n = 1; n <= file.numPages; n++) {
    const page = await file.getPage(n);
    const { items } = await page.getTextContent();
    pages.push(
      items
        .map((i) => ('str' in i ? `${i.str}${i.hasEOL ? '\n' : ''}` : ''))
        .join('')
        .replace(/ +/g, ' '),
    );
    for (const a of (await page.getAnnotations()) as { url?: string }[]) if (a.url) links.push(a.url);
    const { width, height } = page.getViewport({ scale: 1 });
    wide = width > height;
  }
  const { info } = await file.getMetadata();
  await task.destroy();
  return { pages, title: (info as { Title?: string }).Title ?? '', links: [...new Set(links)], wide };
}

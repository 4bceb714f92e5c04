export const escape = (s: string) => s.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** A plain page of a stand-in. */
export const page = (
  title: string,
  body: string,
) => `<!doctype html><html lang="en"><meta charset="utf-8"><title>${escape(title)}</title><link rel="icon" href="data:,">
<style>h1{line-height:1.2}body{font:15px/22px Georgia,serif;margin:24px auto;max-width:60rem;padding:0 16px;color:#222}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:4px 12px 4px 0;border-bottom:1px solid #ccc;vertical-align:top}pre{white-space:pre-wrap;font:inherit}dt{float:left;width:8rem;color:#555}form{margin-bottom:16px}</style>
<h1>${escape(title)}</h1>${body}</html>`;

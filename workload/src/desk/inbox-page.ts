import type { Taken } from './inbox';

const SIGNS: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const text = (value: string): string => value.replace(/[&<>"]/g, (sign) => SIGNS[sign]);
const TELLS: Record<string, string> = {
  'watch.on': 'on',
  'watch.off': 'off',
  'watch.no-data': 'no data',
  'watch.test': 'test'
};

/** What the desk took, as a page that reads itself anew. */
export function inboxHtml(taken: readonly Taken[], nowMs: number): string {
  const rows = taken
    .map(
      ({ atMs, type, severity, name, sentence, times }) =>
        `<tr><td>${new Date(atMs).toLocaleTimeString('en-GB')}</td><td>${text(TELLS[type] ?? type)}</td><td>${text(severity)}</td><td><b>${text(name)}</b><br>${text(sentence)}${times > 1 ? ` (came ${times} times)` : ''}</td></tr>`
    )
    .join('\n');
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="refresh" content="5">
<title>Harbour desk · Quillhaven</title>
<style>
body { font: 14px/1.5 sans-serif; margin: 32px; color: #1b2a32; background: #f4f2e9 }
table { border-collapse: collapse; width: 100% }
td, th { text-align: left; vertical-align: top; padding: 6px 12px 6px 0; border-bottom: 1px solid #cdcfbf }
</style>
</head>
<body>
<h1>Harbour desk</h1>
<p>${taken.length === 0 ? 'No notice came yet.' : `${taken.length} notices, each with a signature that was checked.`} Read at ${new Date(nowMs).toLocaleTimeString('en-GB')}.</p>
<table><thead><tr><th>at</th><th>tells</th><th>severity</th><th>what</th></tr></thead><tbody>
${rows}
</tbody></table>
</body>
</html>`;
}

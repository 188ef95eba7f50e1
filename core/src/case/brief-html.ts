import { xmlText } from '../text/xml-text';
import type { Block, Brief } from './brief';

/** Turns Markdown into markup that runs nothing. */
export type RenderMarkdown = (source: string) => string;

const STYLE = `
:root{color-scheme:light dark}
body{font:15px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#1c2a33;background:#fff}
h1{font-size:1.6rem;line-height:1.25;margin:0}h2{font-size:1.05rem;margin:1.8rem 0 .4rem;border-top:1px solid #cdd5d0;padding-top:.8rem}
.about{color:#5a6a70;margin:.3rem 0 0}
table{border-collapse:collapse;margin:.5rem 0}td,th{padding:.15rem .8rem .15rem 0;text-align:left;vertical-align:top}td+td{text-align:right;font-family:ui-monospace,monospace}
pre{font:12.5px/1.45 ui-monospace,monospace;background:#f3f5f2;border:1px solid #d7ddd6;padding:.6rem .8rem;overflow-x:auto;white-space:pre-wrap;word-break:break-word}
pre b{background:#f3dfcc}img{max-width:100%;border:1px solid #d7ddd6;background:#fff}figure{margin:.6rem 0}.caption{color:#5a6a70;font-size:13px}
a{color:#1f5a6b}
@media (prefers-color-scheme:dark){body{background:#12181c;color:#e3e8e6}pre{background:#1a2227;border-color:#2c363c}h2{border-color:#2c363c}.about,.caption{color:#9fb0b3}a{color:#7fc0cc}pre b{background:#3a2a1d}}
@media print{body{margin:0;max-width:none;font-size:11pt;background:#fff;color:#000}h2{break-after:avoid}pre,figure,table{break-inside:avoid}a{color:inherit;text-decoration:none}a[href^=http]::after{content:" (" attr(href) ")";font-size:9pt;word-break:break-all}}
`.trim();

/**
 * A brief as one HTML file that stands alone: no script, nothing is fetched, and what comes from outside is text. Pictures are images of their own bytes, in which nothing runs. The policy in its head
 * (Content Security Policy Level 3) says so once more.
 */
export function briefHtml({ title, about, sections }: Brief, render: RenderMarkdown): string {
  const body = sections
    .map(
      (section) =>
        `<section><h2>${xmlText(section.title)}</h2>\n${section.blocks.map((block) => blockHtml(block, render)).join('\n')}</section>`
    )
    .join('\n');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src data:">
<meta name="viewport" content="width=device-width"><title>${xmlText(title)}</title><style>${STYLE}</style></head>
<body><header><h1>${xmlText(title)}</h1><p class="about">${xmlText(about)}</p></header>
${body}
</body></html>
`;
}

function blockHtml(block: Block, render: RenderMarkdown): string {
  switch (block.kind) {
    case 'text':
      return `<p>${xmlText(block.text)}</p>`;
    case 'markdown':
      return render(block.source);
    case 'figures':
      return `<table>${block.rows.map(({ name, value }) => `<tr><td>${xmlText(name)}</td><td>${xmlText(value)}</td></tr>`).join('')}</table>`;
    case 'code':
      return `<p class="caption">${xmlText(block.caption)}</p><pre>${block.lines
        .map(({ number, text }) => {
          const line = `${String(number).padStart(5)}  ${xmlText(text)}`;
          return number === block.line ? `<b>${line}</b>` : line;
        })
        .join('\n')}</pre>`;
    case 'verbatim':
      return `<pre>${xmlText(block.text)}</pre>`;
    case 'picture':
      return `<figure><img alt="${xmlText(block.caption)}" src="data:image/svg+xml;base64,${base64(block.svg)}"></figure>`;
    case 'link':
      return `<p><a href="${xmlText(block.href)}">${xmlText(block.text)}</a></p>`;
    case 'list':
      return `<ul>${block.items.map((item) => `<li>${xmlText(item)}</li>`).join('')}</ul>`;
  }
}

/** Base64 of the UTF-8 of a text (RFC 4648), where the platform has no Buffer too. */
function base64(text: string): string {
  const bytes = new TextEncoder().encode(text);
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

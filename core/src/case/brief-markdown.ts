import { markdownText } from '../text/markdown';
import type { Block, Brief } from './brief';

/** A brief as Markdown (CommonMark, with the tables of GitHub). Pictures have no place in it. */
export function briefMarkdown({ title, about, sections }: Brief): string {
  const lines = [`# ${markdownText(title)}`, '', markdownText(about), ''];
  for (const section of sections) {
    lines.push(`## ${markdownText(section.title)}`, '');
    for (const block of section.blocks) lines.push(...blockLines(block), '');
  }
  return `${lines.join('\n').trimEnd()}\n`;
}

function blockLines(block: Block): string[] {
  switch (block.kind) {
    case 'text':
      return [markdownText(block.text)];
    case 'markdown':
      return [block.source.trim()];
    case 'figures':
      return [
        '| | |',
        '| --- | ---: |',
        ...block.rows.map(({ name, value }) => `| ${markdownText(name)} | ${markdownText(value)} |`)
      ];
    case 'code':
      return [
        markdownText(block.caption),
        '',
        ...fenced(
          block.lines
            .map(({ number, text }) => `${number === block.line ? '>' : ' '} ${number}  ${text}`)
            .join('\n')
        )
      ];
    case 'verbatim':
      return fenced(block.text);
    case 'picture':
      return [`_(picture: ${markdownText(block.caption)})_`];
    case 'link':
      return [`[${markdownText(block.text)}](${linkTarget(block.href)})`];
    case 'list':
      return block.items.map((item) => `- ${markdownText(item)}`);
  }
}

/** An address as the target of a link (CommonMark 6.3): nothing in it ends the target. */
const linkTarget = (href: string): string =>
  href.replace(/[\s()<>\\]/g, (sign) => `%${sign.charCodeAt(0).toString(16).padStart(2, '0').toUpperCase()}`);

/** A fence longer than any run of backticks inside (CommonMark 4.5). */
function fenced(text: string): string[] {
  const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(longest + 1);
  return [fence, text, fence];
}

import markdownIt from 'markdown-it';
import * as v from 'valibot';
import { briefFileName, type Brief } from '@tromix/core/case/brief';
import { briefHtml } from '@tromix/core/case/brief-html';
import { briefMarkdown } from '@tromix/core/case/brief-markdown';

/** Markup in a note is text, and links lead to pages only: the renderer's own rule refuses addresses that run. */
const renderer = markdownIt({ html: false, linkify: false });
// Nothing is fetched by a brief: an image of somewhere is named, not loaded.
renderer.disable('image');

const Choice = v.object({
  length: v.fallback(v.picklist(['short', 'full']), 'full'),
  as: v.fallback(v.picklist(['html', 'md']), 'html')
});
export const briefChoice = (query: URLSearchParams): v.InferOutput<typeof Choice> =>
  v.parse(Choice, { length: query.get('length'), as: query.get('as') });

/** A brief as one HTML file. */
export const briefAsHtml = (brief: Brief): string => briefHtml(brief, (source) => renderer.render(source));

/** A brief as a file to be saved. The browser that shows it from here runs nothing of it either. */
export function briefAnswer(brief: Brief, as: 'html' | 'md'): Response {
  const name = briefFileName(brief.title);
  return as === 'md'
    ? new Response(briefMarkdown(brief), {
        headers: {
          'content-type': 'text/markdown; charset=utf-8',
          'content-disposition': `attachment; filename="${name}.md"`
        }
      })
    : new Response(briefAsHtml(brief), {
        headers: {
          'content-type': 'text/html; charset=utf-8',
          'content-disposition': `attachment; filename="${name}.html"`,
          'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:; sandbox"
        }
      });
}

import DOMPurify from 'dompurify';
import markdownIt from 'markdown-it';

const renderer = markdownIt({ html: false, linkify: true });
// A picture of somewhere would be fetched from there.
renderer.disable('image');

/** Markdown as markup that runs nothing and fetches nothing. */
export const renderNote = (source: string): string =>
  DOMPurify.sanitize(renderer.render(source), {
    ALLOWED_TAGS: [
      'p',
      'br',
      'em',
      'strong',
      's',
      'code',
      'pre',
      'blockquote',
      'ul',
      'ol',
      'li',
      'h1',
      'h2',
      'h3',
      'h4',
      'hr',
      'a',
      'table',
      'thead',
      'tbody',
      'tr',
      'th',
      'td'
    ],
    ALLOWED_ATTR: ['href']
  });

import type { ResourceKind } from './page-load';

const BY_TYPE: [RegExp, ResourceKind][] = [
  [/^(?:text\/html|application\/xhtml\+xml)/i, 'document'],
  [/^text\/css/i, 'style'],
  [/(?:java|ecma)script|^application\/wasm/i, 'script'],
  [/^image\//i, 'picture'],
  [/^(?:font\/|application\/(?:x-)?font)/i, 'font'],
  [/[/+](?:json|xml)\b|^text\/(?:plain|event-stream)/i, 'data']
];

/** What an answer is by its media type (RFC 6838, IANA’s registry). */
export const kindByType = (mediaType: string): ResourceKind =>
  BY_TYPE.find(([type]) => type.test(mediaType))?.[1] ?? 'other';

/** What a resource is by who asked for it (W3C Resource Timing, `initiatorType`), and where that does not tell it by its address. */
const BY_INITIATOR: Partial<Record<string, ResourceKind>> = {
  navigation: 'document',
  iframe: 'document',
  frame: 'document',
  script: 'script',
  img: 'picture',
  image: 'picture',
  input: 'picture',
  fetch: 'data',
  xmlhttprequest: 'data',
  beacon: 'other'
};
const BY_ENDING: [RegExp, ResourceKind][] = [
  [/\.css$/i, 'style'],
  [/\.[cm]?js$|\.wasm$/i, 'script'],
  [/\.(?:woff2?|ttf|otf)$/i, 'font'],
  [/\.(?:png|jpe?g|gif|webp|avif|svg|ico)$/i, 'picture'],
  [/\.json$/i, 'data']
];
/** A `link` fetches styles, fonts, pictures and scripts alike, a style sheet its fonts and pictures. */
export function kindByInitiator(initiator: string, url: string): ResourceKind {
  const path = url.replace(/[?#].*$/s, '');
  const known = BY_INITIATOR[initiator];
  const byEnding = BY_ENDING.find(([ending]) => ending.test(path))?.[1];
  if (initiator === 'link' || initiator === 'css' || known === undefined) return byEnding ?? 'other';
  return known;
}

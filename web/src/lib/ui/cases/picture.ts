import { plainColour } from '$lib/ui/chart/theme';

/** A picture smaller than this shows nothing by itself. */
const LEAST_WIDTH = 260;
const LEAST_HEIGHT = 60;
const MAX_LENGTH = 390_000;

/** A picture as it may be pinned; '' for one that is too large. */
export const pinnedPicture = (svg: string): string => (svg.length <= MAX_LENGTH ? svg : '');

/**
 * The largest drawing of the view that is open as an SVG that stands alone, as it is drawn now: colours of the theme become plain ones, and nothing of outside is
 * named. '' where there is none, or it is too large.
 */
export function pictureOfMain(): string {
  const drawings = [...document.querySelectorAll<SVGSVGElement>('main svg')]
    .map((svg) => ({ svg, box: svg.getBoundingClientRect() }))
    .filter(({ box }) => box.width >= LEAST_WIDTH && box.height >= LEAST_HEIGHT)
    .sort((a, b) => b.box.width * b.box.height - a.box.width * a.box.height);
  return drawings.length > 0 ? standAlone(drawings[0].svg) : '';
}

/** A drawing of the screen as an SVG that stands alone; '' for one that is too large. */
export function standAlone(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const { width, height } = svg.getBoundingClientRect();
  for (const forbidden of copy.querySelectorAll('script, foreignObject, image, a')) forbidden.remove();
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('width', String(Math.round(width)));
  copy.setAttribute('height', String(Math.round(height)));
  if (!copy.hasAttribute('viewBox'))
    copy.setAttribute('viewBox', `0 0 ${Math.round(width)} ${Math.round(height)}`);
  const paper = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  paper.setAttribute('width', '100%');
  paper.setAttribute('height', '100%');
  paper.setAttribute('fill', plainColour('var(--sheet)'));
  copy.prepend(paper);
  const text = new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\(--font-mono\)/g, 'monospace')
    .replace(/var\(--[\w-]+\)/g, (token) => plainColour(token) || 'none')
    .replace(/ class="[^"]*"/g, '');
  return pinnedPicture(text);
}

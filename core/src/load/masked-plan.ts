import { isSecretName } from '../mask/names';
import { isSecretWord, MASK } from '../mask/shapes';
import { maskText } from '../mask/text';
import { decoded, maskPath } from '../mask/url';
import type { LoadPlan, Step } from './plan';

/** A plan as it is kept: values of secret names, and what tells by its shape that it opens a door, are masked; each step says which parts. */
export const maskedPlan = (plan: LoadPlan): LoadPlan => ({ ...plan, steps: plan.steps.map(maskedStep) });

function maskedStep(step: Step): Step {
  const url = maskedUrl(step.url);
  const headers = step.headers.map(([name, value]): [string, string] => [name, maskedHeader(name, value)]);
  const body = maskText(step.body, 'value');
  const masked = new Set(step.masked);
  if (url !== step.url) masked.add('url');
  if (headers.some(([, value], i) => value !== step.headers[i][1])) masked.add('headers');
  if (body !== step.body) masked.add('body');
  return { ...step, name: maskText(step.name, 'name'), url, headers, body, masked: [...masked] };
}

const maskedHeader = (name: string, value: string): string =>
  isSecretName(name) ? MASK : maskText(value, 'value');

/** Parameters of the query are what a run asks for: only secret ones go. */
function maskedUrl(url: string): string {
  const [, place, path, query] = /^(\w+:\/\/[^/?#]*)([^?#]*)(?:\?([^#]*))?/.exec(url) ?? [];
  if (place === undefined) return MASK;
  const pairs = query?.split('&').map((pair) => {
    const [name, value = ''] = pair.split(/=(.*)/s);
    return isSecretName(name) || isSecretWord(decoded(value)) ? `${name}=${MASK}` : pair;
  });
  return `${place}${maskPath(path)}${pairs ? `?${pairs.join('&')}` : ''}`;
}

const PART_WORDS = { url: 'address', headers: 'headers', body: 'body' };

/** What somebody has to give anew before a plan is sent again; '' for nothing. */
export function missingParts({ steps }: LoadPlan): string {
  const at = steps.findIndex(({ masked }) => masked.length > 0);
  if (at < 0) return '';
  const parts = steps[at].masked.map((part) => PART_WORDS[part]).join(' and the ');
  return `steps ${at + 1}: the ${parts} held secrets, which are not kept. Give them anew.`;
}

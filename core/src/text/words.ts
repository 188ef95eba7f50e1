/** A sentence in parts; those in a list of their own are stressed. Names from outside stay what they are, whatever they hold. */
export type Words = readonly (string | readonly [string])[];

/** Parts a template: what is put in as a list of one is stressed. */
export function words(fixed: TemplateStringsArray, ...put: (string | readonly [string])[]): Words {
  return fixed
    .flatMap((text, i) => [text, ...(i < put.length ? [put[i]] : [])])
    .filter((part) => part !== '');
}

export function plainText(sentence: Words): string {
  return sentence.map((part) => (typeof part === 'string' ? part : part[0])).join('');
}

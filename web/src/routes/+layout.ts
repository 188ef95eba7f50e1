import type { LayoutLoad } from './$types';

// An instrument, not a document: it is drawn in the browser, in the reader's own time zone.
export const ssr = false;

const FACES = ["13px 'Instrument Sans Variable'", "12px 'Source Code Pro Variable'"];
/** Longer than this nobody waits: the text then stands in another face. */
const MOST_MS = 1500;
let faces: Promise<unknown> | undefined;

/** Text that is drawn before its face is there would move when it comes. */
const facesReady = (): Promise<unknown> =>
  (faces ??= Promise.race([
    Promise.allSettled(FACES.map((face) => document.fonts.load(face))),
    new Promise((resolve) => setTimeout(resolve, MOST_MS))
  ]));

export const load: LayoutLoad = async ({ data }) => {
  await facesReady();
  return data;
};

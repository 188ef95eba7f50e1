// An instrument, not a document: it is drawn in the browser, in the reader's own time zone.
export const ssr = false;

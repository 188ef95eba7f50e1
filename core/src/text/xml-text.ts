/** Characters that no XML 1.0 document may hold (its section 2.2), not even as references. */
// eslint-disable-next-line no-control-regex
const NOT_IN_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

const REFERENCES: Record<string, string> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;'
};

/** Text from outside as it may stand in an SVG file, in an element or an attribute. */
export const xmlText = (text: string): string =>
  text.replace(NOT_IN_XML, '').replace(/[&<>"']/g, (sign) => REFERENCES[sign]);

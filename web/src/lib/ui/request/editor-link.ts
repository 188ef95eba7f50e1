/** Schemes that would run something in the page instead of opening an editor. */
const FORBIDDEN = /^(?:javascript|data|vbscript|blob|about):/i;

/** Why a template cannot be used; '' where it can, and for none. */
export function templateFault(template: string): string {
  if (template === '') return '';
  if (!/^[a-z][a-z0-9+.-]*:/i.test(template))
    return 'It begins with the scheme your editor listens to, and a colon.';
  if (FORBIDDEN.test(template)) return 'That scheme opens no editor.';
  return template.includes('{path}') || template.includes('{file}')
    ? ''
    : 'It holds {path} or {file}, and {line}.';
}

/** The template with a place in it; '' where there is no template that can be used. */
export function editorLink(template: string, place: { path: string; file: string; line: number }): string {
  if (template === '' || templateFault(template) !== '') return '';
  const encode = (text: string): string => text.split('/').map(encodeURIComponent).join('/');
  return template
    .replaceAll('{path}', encode(place.path || place.file))
    .replaceAll('{file}', encode(place.file))
    .replaceAll('{line}', String(place.line));
}

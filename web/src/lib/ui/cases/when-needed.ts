import type { EditorOptions } from './note-editor';

// The editor and the renderer of notes are loaded with the first note.

export async function rendered(source: string): Promise<string> {
  const { renderNote } = await import('./render-note');
  return renderNote(source);
}

export async function editorIn(
  parent: HTMLElement,
  options: EditorOptions
): Promise<{ destroy: () => void }> {
  const { openEditor } = await import('./note-editor');
  return openEditor(parent, options);
}

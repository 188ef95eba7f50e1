import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { markdown } from '@codemirror/lang-markdown';
import { EditorState } from '@codemirror/state';
import { EditorView, keymap, placeholder as placeholderOf } from '@codemirror/view';

export interface EditorOptions {
  value: string;
  label: string;
  placeholder: string;
  onchange: (text: string) => void;
  onblur?: () => void;
}

/** An editor of Markdown in an element; it has the focus. */
export function openEditor(
  parent: HTMLElement,
  { value, label, placeholder, onchange, onblur }: EditorOptions
): EditorView {
  const view = new EditorView({
    parent,
    state: EditorState.create({
      doc: value,
      extensions: [
        history(),
        markdown(),
        EditorView.lineWrapping,
        placeholderOf(placeholder),
        keymap.of([...defaultKeymap, ...historyKeymap]),
        EditorView.contentAttributes.of({ 'aria-label': label }),
        EditorView.theme({
          '&': { backgroundColor: 'transparent' },
          '&.cm-focused': { outline: 'none' },
          '.cm-content': { fontFamily: 'var(--font-sans)', caretColor: 'var(--ink)' },
          '.cm-placeholder': { color: 'var(--ink-3)' }
        }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) onchange(update.state.doc.toString());
        }),
        EditorView.domEventHandlers({ blur: () => void onblur?.() })
      ]
    })
  });
  view.dispatch({ selection: { anchor: view.state.doc.length } });
  view.focus();
  return view;
}

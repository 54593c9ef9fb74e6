import { useEffect, useRef, useState } from 'react';
import { Box } from '@chakra-ui/react';
import { acceptCompletion, autocompletion, type CompletionSource, completionStatus, startCompletion } from '@codemirror/autocomplete';
import { history, historyKeymap, standardKeymap } from '@codemirror/commands';
import { setDiagnostics } from '@codemirror/lint';
import { EditorState, Prec } from '@codemirror/state';
import { EditorView, keymap, placeholder } from '@codemirror/view';

/** What is wrong with a text, and from which character on; where nobody can say, all of it. */
export interface TextFault {
  message: string;
  at: number | null;
}

/** How it looks: the page's own tokens, as the text fields beside it. */
const LOOK = EditorView.theme({
  '&': {
    fontSize: '12px',
    backgroundColor: 'var(--chakra-colors-surface)',
    color: 'var(--chakra-colors-ink)',
    border: '1px solid var(--chakra-colors-line)',
    borderRadius: 'var(--chakra-radii-sheet)',
  },
  '&.cm-focused': { outline: '2px solid var(--chakra-colors-verdigris)', outlineOffset: '-1px' },
  '&.is-wrong': { borderColor: 'var(--chakra-colors-madder)' },
  '.cm-scroller': { fontFamily: 'var(--chakra-fonts-mono)', lineHeight: '18px', maxHeight: '96px' },
  '.cm-content': { padding: '3px 0', caretColor: 'var(--chakra-colors-ink)', minHeight: '24px' },
  '.cm-line': { padding: '0 7px' },
  '.cm-cursor': { borderLeftColor: 'var(--chakra-colors-ink)' },
  '.cm-placeholder': { color: 'var(--chakra-colors-muted)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { backgroundColor: 'var(--chakra-colors-verdigris-tint)' },
  '.cm-lintRange-error': {
    backgroundImage: 'none',
    textDecoration: 'underline wavy var(--chakra-colors-madder)',
    textUnderlineOffset: '3px',
  },
  '.cm-tooltip': {
    backgroundColor: 'var(--chakra-colors-surface)',
    border: '1px solid var(--chakra-colors-line)',
    borderRadius: 'var(--chakra-radii-sheet)',
    overflow: 'hidden',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--chakra-fonts-mono)', fontSize: '12px', maxHeight: '220px' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': {
    display: 'flex',
    justifyContent: 'space-between',
    gap: '14px',
    padding: '2px 8px',
    lineHeight: '19px',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--chakra-colors-verdigris-tint)',
    color: 'var(--chakra-colors-ink)',
  },
  '.cm-completionDetail': {
    fontStyle: 'normal',
    fontFamily: 'var(--chakra-fonts-body)',
    color: 'var(--chakra-colors-muted)',
    marginLeft: '0',
  },
  '.cm-completionMatchedText': { textDecoration: 'none', fontWeight: '600' },
});

/** One line, however it is pasted. */
const ONE_LINE = EditorState.transactionFilter.of((tr) =>
  tr.newDoc.lines > 1
    ? [tr, { changes: { from: 0, to: tr.newDoc.length, insert: tr.newDoc.toString().replace(/\s*\n\s*/g, ' ') }, sequential: true }]
    : tr,
);

/**
 * A line of code that is written with what may stand in it: it offers what may come next, underlines what is wrong where it stands, and
 * holds its text until it is left or Enter is pressed. Escape takes back what was typed.
 */
export function CodeInput({
  label,
  value,
  hint,
  maxLength,
  faultOf,
  complete,
  onChange,
  onTyped,
}: {
  label: string;
  value: string;
  hint: string;
  maxLength: number;
  faultOf(text: string): TextFault | null;
  complete: CompletionSource;
  onChange(text: string): void;
  /** Gets what is being typed; null when it is not being typed any more. */
  onTyped?: ((text: string | null) => void) | undefined;
}) {
  const holder = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const [fault, setFault] = useState<TextFault | null>(null);
  // the editor is made once, and asks what is so now
  const latest = useRef({ value, faultOf, complete, onChange, onTyped });
  useEffect(() => {
    latest.current = { value, faultOf, complete, onChange, onTyped };
  });

  useEffect(() => {
    const told = (v: EditorView): void => {
      const text = v.state.doc.toString();
      const wrong = text.trim() === '' ? null : latest.current.faultOf(text);
      setFault(wrong);
      const length = v.state.doc.length;
      const from = Math.max(0, Math.min(wrong?.at ?? 0, length - 1));
      v.dispatch(
        setDiagnostics(
          v.state,
          wrong
            ? [{ from, to: wrong.at === null ? length : Math.max(from, endOfWord(text, from)), severity: 'error', message: wrong.message }]
            : [],
        ),
      );
    };
    const put = (v: EditorView, text: string): void => v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: text } });
    const save = (v: EditorView): void => {
      const text = v.state.doc.toString();
      // what cannot be taken stays to be mended
      if (text.trim() !== '' && latest.current.faultOf(text)) return;
      if (text.trim() !== latest.current.value) latest.current.onChange(text.trim());
      latest.current.onTyped?.(null);
    };
    const editor = new EditorView({
      parent: holder.current!,
      state: EditorState.create({
        doc: latest.current.value,
        extensions: [
          LOOK,
          ONE_LINE,
          EditorView.lineWrapping,
          EditorState.changeFilter.of((tr) => tr.newDoc.length <= maxLength),
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          placeholder(hint),
          history(),
          autocompletion({
            override: [(context) => latest.current.complete(context)],
            icons: false,
            maxRenderedOptions: 40,
            // nothing is taken that was not chosen
            selectOnOpen: false,
            interactionDelay: 0,
          }),
          Prec.highest(
            keymap.of([
              {
                key: 'Enter',
                run: (v) => {
                  if (completionStatus(v.state) === 'active' && chosenIn(v)) return false;
                  v.contentDOM.blur();
                  return true;
                },
              },
              { key: 'Tab', run: (v) => chosenIn(v) && acceptCompletion(v) },
              {
                key: 'Escape',
                stopPropagation: true,
                run: (v) => {
                  if (completionStatus(v.state) === 'active') return false;
                  put(v, latest.current.value);
                  latest.current.onTyped?.(null);
                  return true;
                },
              },
            ]),
          ),
          keymap.of([...standardKeymap, ...historyKeymap]),
          EditorView.updateListener.of((update) => {
            if (!update.docChanged) return;
            const text = update.state.doc.toString();
            queueMicrotask(() => told(update.view));
            if (update.view.hasFocus) latest.current.onTyped?.(text === latest.current.value ? null : text);
          }),
          EditorView.domEventHandlers({
            focus: (_e, v) => void (v.state.doc.length === 0 && startCompletion(v)),
            blur: (_e, v) => save(v),
          }),
        ],
      }),
    });
    view.current = editor;
    told(editor);
    return () => {
      latest.current.onTyped?.(null);
      editor.destroy();
      view.current = null;
    };
    // another field is another editor
  }, [label, hint, maxLength]);

  // what the rule says now takes the place of what was typed over what it said before
  useEffect(() => {
    const v = view.current;
    if (v && v.state.doc.toString() !== value) v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: value } });
  }, [value]);

  const invalid = fault !== null;
  useEffect(() => {
    const v = view.current;
    v?.dom.classList.toggle('is-wrong', invalid);
    v?.contentDOM.setAttribute('aria-invalid', String(invalid));
  }, [invalid]);

  return (
    <Box w="100%" minW="0">
      <Box ref={holder} />
      {fault && (
        <Box mt="3px" color="madderInk" textStyle="small">
          {fault.message}
        </Box>
      )}
    </Box>
  );
}

const endOfWord = (text: string, from: number): number => from + (/^[\p{L}\p{N}_]+|^./u.exec(text.slice(from))?.[0].length ?? 1);

/** Whether one of the offers is marked. */
const chosenIn = (v: EditorView): boolean => v.dom.querySelector('.cm-tooltip-autocomplete li[aria-selected="true"]') !== null;

import { autocompletion, type CompletionSource } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, HighlightStyle, indentOnInput, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, lintKeymap, setDiagnostics } from "@codemirror/lint";
import { highlightSelectionMatches, search, searchKeymap } from "@codemirror/search";
import { EditorState } from "@codemirror/state";
import { EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { ProblemPart } from "../api/client";

const nonce = () => document.querySelector<HTMLMetaElement>('meta[name="oddtick-nonce"]')?.content ?? "";

const look = EditorView.theme({
  "&": { height: "100%", backgroundColor: "var(--panel)", color: "var(--ink)", fontSize: "13px" },
  "&.cm-focused": { outline: "2px solid var(--ink)", outlineOffset: "-2px" },
  ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "1.55" },
  ".cm-gutters": { backgroundColor: "var(--ground)", color: "var(--soft)", borderRight: "1px solid var(--line)" },
  ".cm-activeLine, .cm-activeLineGutter": { backgroundColor: "color-mix(in srgb, var(--line) 30%, transparent)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-tooltip": { backgroundColor: "var(--panel)", color: "var(--ink)", border: "1px solid var(--line)" },
  ".cm-tooltip-autocomplete ul li[aria-selected]": { backgroundColor: "var(--ink)", color: "var(--panel)" },
  ".cm-completionInfo": { maxWidth: "320px", padding: "4px 8px" },
  ".cm-panels": { backgroundColor: "var(--ground)", color: "var(--ink)" },
});

const colours = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], fontWeight: "600" },
  { tag: tags.comment, color: "var(--soft)", fontStyle: "italic" },
  { tag: [tags.string, tags.number, tags.bool], color: "var(--teal-ink, var(--ink))" },
]);

/** Where a problem stands in a text; the first line where it names none. */
function place(state: EditorState, p: ProblemPart): Diagnostic {
  const line = state.doc.line(Math.min(Math.max(p.line, 1), state.doc.lines));
  const from = Math.min(line.from + Math.max(p.column - 1, 0), line.to);
  return { from, to: Math.max(from, line.to), severity: "error", message: p.text };
}

/** A document's text: with line numbers, search, completion, and problems at their lines. Tab leaves it after Esc. */
export function TextEditor({
  text,
  label,
  problems,
  complete,
  onChange,
}: {
  text: string;
  label: string;
  problems: ProblemPart[];
  complete?: CompletionSource;
  onChange: (text: string) => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const change = useRef(onChange);
  change.current = onChange;
  const source = useRef(complete);
  source.current = complete;
  const first = useRef(text);
  useEffect(() => {
    if (!host.current) return;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          EditorView.cspNonce.of(nonce()),
          lineNumbers(),
          history(),
          indentOnInput(),
          bracketMatching(),
          highlightActiveLine(),
          highlightSelectionMatches(),
          search({ top: true }),
          lintGutter(),
          yaml(),
          syntaxHighlighting(colours),
          look,
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": label, tabindex: "0" }),
          autocompletion({ override: [(context) => source.current?.(context) ?? null] }),
          keymap.of([...searchKeymap, ...historyKeymap, ...lintKeymap, ...defaultKeymap, indentWithTab]),
          EditorView.updateListener.of((u) => {
            if (u.docChanged) change.current(u.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label]);
  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== text)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
  }, [text]);
  useEffect(() => {
    const editor = view.current;
    if (editor)
      editor.dispatch(
        setDiagnostics(
          editor.state,
          problems.map((p) => place(editor.state, p)),
        ),
      );
  }, [problems]);
  return <div ref={host} className="min-h-0 flex-1 overflow-hidden border border-line" />;
}

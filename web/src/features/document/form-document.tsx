import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api, need, Problem } from "../../api/client";
import { UndoButtons, useEditing, usePreview, useTextPreview } from "../../editing/edits";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { Trouble, Waiting } from "../../ui/notice";
import { caseChanges } from "../../ui/time";
import { say } from "../../words";
import { changes } from "./changes";
import { unreadable } from "./completion";
import { DocumentEditor, read, useAsText, useSchema, useSettled } from "./document";
import type { Schema } from "./schema";

/** Every key of a form's document, edited by controls or as text, and saved as a new revision. */
export function FormDocumentPage() {
  const at = useFormAddress();
  const revision = useFormView().brief.revision;
  const schema = useSchema("form");
  const document = useQuery({
    queryKey: ["document", at.site, at.form, revision],
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/document", { params: { path: at } })),
  });
  if (schema.isError) return <Trouble error={schema.error} again={() => schema.refetch()} />;
  if (document.isError) return <Trouble error={document.error} again={() => document.refetch()} />;
  if (!schema.data || !document.data) return <Waiting what={say.document.loading} />;
  return (
    <Loaded schema={schema.data} text={document.data.text} base={document.data.revision} key={document.data.revision} />
  );
}

function Loaded({ schema, text, base }: { schema: Schema; text: string; base: number }) {
  const at = useFormAddress();
  const editing = useEditing();
  const [asText, setAsText] = useAsText();
  const original = useMemo(() => read(text), [text]);
  const [value, setValue] = useState(original);
  const [draft, setDraft] = useState(text);
  useEffect(() => {
    setValue(original);
    setDraft(text);
  }, [original, text]);

  const edits = useMemo(() => changes(original, value), [original, value]);
  const settledEdits = useSettled(edits);
  const settledText = useSettled(draft);
  const broken = useMemo(() => (asText ? unreadable(settledText) : []), [asText, settledText]);
  const byKeys = usePreview(at, base, !asText && settledEdits.length > 0 ? settledEdits : null);
  const byText = useTextPreview(at, base, asText && settledText !== text && broken.length === 0 ? settledText : null);
  const preview = asText ? byText : byKeys;
  const unsaved = asText ? draft !== text : edits.length > 0;
  const refused = unsaved && preview.error instanceof Problem ? preview.error : null;
  const told = refused?.parts.length
    ? refused.parts
    : refused
      ? [{ text: refused.message, path: "", line: 0, column: 0 }]
      : [];

  const outlook = !unsaved
    ? say.document.revision(base)
    : preview.isFetching
      ? say.document.checking
      : preview.data && !refused
        ? caseChanges(preview.data.cases)
        : "";
  return (
    <div className="h-full">
      <DocumentEditor
        history={<UndoButtons />}
        schema={schema}
        value={value}
        text={draft}
        asText={asText}
        problems={broken.length > 0 ? broken : told}
        outlook={outlook}
        unsaved={unsaved}
        saving={editing.busy}
        fixed={["form"]}
        onAsText={setAsText}
        onValue={setValue}
        onText={setDraft}
        onSave={() => (asText ? editing.replace(draft) : editing.apply(edits))}
        onDiscard={() => {
          setValue(original);
          setDraft(text);
        }}
      />
    </div>
  );
}

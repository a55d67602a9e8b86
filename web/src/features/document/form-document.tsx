import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, need, Problem } from "../../api/client";
import { UndoButtons, useEditing, usePreview, useTextPreview } from "../../editing/edits";
import { useFormAddress, useFormView } from "../../editing/form-view";
import { Trouble, Waiting } from "../../ui/notice";
import { caseChanges } from "../../ui/time";
import { say } from "../../words";
import { changes } from "./changes";
import { unreadable } from "./completion";
import { DocumentEditor, problemsOf, useAsText, useEdited, useSchema, useSettled } from "./document";
import type { Schema } from "./schema";

/** Every key of a form's document, edited by controls or as text, and saved as a new revision. */
export function FormDocumentPage() {
  const at = useFormAddress();
  const revision = useFormView().brief.revision;
  const schema = useSchema("form");
  const document = useQuery({
    queryKey: ["document", at.site, at.form, revision],
    placeholderData: (before) => before,
    queryFn: () => need(api.GET("/api/sites/{site}/forms/{form}/document", { params: { path: at } })),
  });
  if (schema.isError) return <Trouble error={schema.error} again={() => schema.refetch()} />;
  if (document.isError) return <Trouble error={document.error} again={() => document.refetch()} />;
  if (!schema.data || !document.data) return <Waiting what={say.document.loading} />;
  return <Loaded schema={schema.data} text={document.data.text} revision={document.data.revision} />;
}

function Loaded({ schema, text, revision }: { schema: Schema; text: string; revision: number }) {
  const at = useFormAddress();
  const editing = useEditing();
  const [asText, setAsText] = useAsText();
  const edited = useEdited(text, revision);
  const { original, value, draft } = edited;

  const edits = useMemo(() => changes(original, value), [original, value]);
  const settledEdits = useSettled(edits);
  const settledText = useSettled(draft);
  const broken = useMemo(() => (asText ? unreadable(settledText) : []), [asText, settledText]);
  const byKeys = usePreview(at, revision, !asText && settledEdits.length > 0 ? settledEdits : null);
  const changed = asText && settledText !== edited.text && broken.length === 0;
  const byText = useTextPreview(at, edited.came, changed ? settledText : null);
  const preview = asText ? byText : byKeys;
  const unsaved = asText ? draft !== edited.text : edits.length > 0;
  const refused = unsaved && preview.error instanceof Problem ? preview.error : null;

  const outlook = !unsaved
    ? say.document.revision(edited.came)
    : edited.newer
      ? say.document.newer(revision)
      : preview.isFetching
        ? say.document.checking
        : preview.data && !refused
          ? caseChanges(preview.data.cases)
          : "";
  const save = async () => {
    edited.saving(true);
    const saved = await (asText ? editing.replace(draft, edited.came) : editing.apply(edits));
    if (!saved) edited.saving(false);
  };
  return (
    <div className="lg:h-full">
      <DocumentEditor
        history={<UndoButtons />}
        schema={schema}
        value={value}
        text={draft}
        asText={asText}
        problems={broken.length > 0 ? broken : problemsOf(refused)}
        outlook={outlook}
        unsaved={unsaved}
        saving={editing.busy}
        fixed={["form"]}
        onAsText={setAsText}
        onValue={edited.setValue}
        onText={edited.setDraft}
        onSave={save}
        onDiscard={edited.discard}
      />
    </div>
  );
}

import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type KeyboardEvent, useId, useState } from "react";
import { useNavigate } from "react-router";
import { api, need, type Schemas } from "../api/client";
import { say, worded } from "../words";
import { useKey } from "./keys";
import { Trouble } from "./notice";

type Place = Schemas["Place"];

/** Where a place is shown. */
export function placeLink(p: Place): string {
  if (p.kind === "site") return `/sites/${p.site}/may-it-ship`;
  const form = `/sites/${p.site}/forms/${p.form}`;
  if (p.kind === "form") return `${form}/cases`;
  return p.kind === "field" ? `${form}/rules?field=${p.id}` : `${form}/findings?finding=${p.id}`;
}

/** The places whose name, or where they are, has every word that is sought; those that begin with it come first. */
export function placesFor(all: Place[], sought: string): Place[] {
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return all.filter((p) => p.kind === "form");
  const has = (p: Place) => {
    const text = `${p.text} ${p.id ?? ""} ${p.form ?? ""} ${p.in ?? ""}`.toLowerCase();
    return words.every((w) => text.includes(w));
  };
  const starts = (p: Place) => (p.text.toLowerCase().startsWith(words.join(" ")) ? 0 : 1);
  return all
    .filter(has)
    .map((p, i) => ({ p, i }))
    .sort((a, b) => starts(a.p) - starts(b.p) || a.i - b.i)
    .map(({ p }) => p);
}

/** How many hits are listed. */
const shownHits = 40;

/** Goes to a site, form, field or finding by its name; the key / opens it. */
export function Search() {
  const [open, setOpen] = useState(false);
  useKey("/", () => setOpen(true));
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="button">
        <span aria-hidden>/</span> {say.ui.search}
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-30 w-[min(640px,94vw)] -translate-x-1/2 border border-rule bg-panel p-4"
        >
          <Dialog.Title className="text-[15px] font-semibold">{say.ui.searchFor}</Dialog.Title>
          <Found close={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Found({ close }: { close: () => void }) {
  const go = useNavigate();
  const list = useId();
  const [sought, setSought] = useState("");
  const [at, setAt] = useState(0);
  const places = useQuery({ queryKey: ["places"], staleTime: 0, queryFn: () => need(api.GET("/api/places")) });
  const hits = placesFor(places.data ?? [], sought);
  const shown = hits.slice(0, shownHits);
  const chosen = Math.min(at, shown.length - 1);
  const open = (p: Place | undefined) => {
    if (!p) return;
    close();
    go(placeLink(p));
  };
  const move = (e: KeyboardEvent) => {
    if (e.key === "Enter") open(shown[chosen]);
    const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    if (by === 0) return;
    e.preventDefault();
    const next = Math.max(0, Math.min(shown.length - 1, chosen + by));
    setAt(next);
    document.getElementById(`${list}-${next}`)?.scrollIntoView({ block: "nearest" });
  };
  return (
    <>
      <input
        type="search"
        role="combobox"
        aria-label={say.ui.searchFor}
        aria-expanded="true"
        aria-controls={list}
        aria-activedescendant={shown.length > 0 ? `${list}-${chosen}` : undefined}
        className="field mt-2 w-full"
        placeholder={say.ui.wordsInAnyOrder}
        value={sought}
        // biome-ignore lint/a11y/noAutofocus: the dialog is opened to type into it
        autoFocus
        onChange={(e) => {
          setSought(e.target.value);
          setAt(0);
        }}
        onKeyDown={move}
      />
      <p role="status" className="mt-2 text-[12px] text-soft">
        {places.isPending ? say.ui.loadingPlaces : say.ui.hits(hits.length)}
      </p>
      {places.isError && <Trouble error={places.error} again={() => places.refetch()} />}
      <div id={list} role="listbox" aria-label={say.ui.searchFor} className="mt-1 max-h-[52vh] overflow-y-auto">
        {shown.map((p, i) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the keys are the combobox's
          // biome-ignore lint/a11y/useFocusableInteractive: the focus stays in the combobox
          <div
            key={`${p.kind} ${p.site} ${p.form} ${p.id}`}
            id={`${list}-${i}`}
            role="option"
            aria-selected={i === chosen}
            className={`flex cursor-default items-baseline justify-between gap-4 px-2 py-1.5 ${i === chosen ? "bg-ink text-panel" : ""}`}
            onClick={() => open(p)}
          >
            <span>
              {p.text} {p.in && <span className={`text-[12px] ${i === chosen ? "" : "text-soft"}`}>{p.in}</span>}
            </span>
            <span className={`shrink-0 text-[12px] ${i === chosen ? "" : "text-soft"}`}>{worded(p.kind)}</span>
          </div>
        ))}
      </div>
    </>
  );
}

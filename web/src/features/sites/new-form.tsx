import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { api, need } from "../../api/client";
import { ConnectionFields } from "../../editing/connection-fields";
import { idOf } from "../../editing/names";
import { Trouble } from "../../ui/notice";
import { say } from "../../words";

function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is among the children
    <label className="flex items-center gap-2">
      <span className="w-24 shrink-0 text-right">{label}</span>
      {children}
    </label>
  );
}

/** Begins a site: its name, where it is, and the database that is watched. */
export function NewSite({ onMade }: { onMade: (id: string) => void }) {
  const cache = useQueryClient();
  const [title, setTitle] = useState("");
  const [address, setAddress] = useState("");
  const [dsn, setDSN] = useState("");
  const [made, setMade] = useState(0);
  const add = useMutation({
    mutationFn: () => need(api.POST("/api/sites", { body: { id: idOf(title), title, address, dsn } })),
    onSuccess: () => {
      onMade(idOf(title));
      setTitle("");
      setAddress("");
      setDSN("");
      setMade((n) => n + 1);
      return cache.invalidateQueries({ queryKey: ["sites"] });
    },
  });
  const take = useMutation({
    mutationFn: async (file: File) =>
      need(
        api.POST("/api/projects", {
          body: (await file.text()) as unknown as never,
          bodySerializer: (b: unknown) => b as string,
          headers: { "Content-Type": "application/yaml" },
        }),
      ),
    onSuccess: () => cache.invalidateQueries(),
  });
  return (
    <details className="border-b border-line bg-panel px-5 py-2">
      <summary className="cursor-pointer">{say.sites.addASite}</summary>
      <form
        aria-label={say.sites.addASite}
        className="mt-2 grid max-w-xl gap-1.5"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <Line label={say.sites.title}>
          <input className="field flex-1" value={title} required onChange={(e) => setTitle(e.target.value)} />
        </Line>
        <Line label={say.sites.address}>
          <input
            className="field value flex-1"
            placeholder={say.sites.http127001}
            value={address}
            required
            onChange={(e) => setAddress(e.target.value)}
          />
        </Line>
        <div className="pl-26">
          <ConnectionFields key={made} onChange={setDSN} />
        </div>
        <div className="flex items-center gap-3 pl-26">
          <button type="submit" className="button" disabled={add.isPending}>
            {say.sites.createSite}
          </button>
          <label className="link cursor-pointer">
            {say.sites.orImportAProjectFile}
            <input
              type="file"
              accept=".yaml,.yml,.json"
              className="sr-only"
              onChange={(e) => {
                const file = e.target.files?.[0];
                if (file) take.mutate(file);
                e.target.value = "";
              }}
            />
          </label>
        </div>
      </form>
      {add.isError && <Trouble error={add.error} />}
      {take.isError && <Trouble error={take.error} />}
      {take.data && (
        <p role="status">
          {say.sites.imported} {take.data.site} {say.sites.withWord} {take.data.forms.join(", ")}
        </p>
      )}
    </details>
  );
}

/** Begins a form of a site; of one that was just made it is what comes next. */
export function NewForm({ site, begun }: { site: string; begun: boolean }) {
  const cache = useQueryClient();
  const go = useNavigate();
  const [title, setTitle] = useState("");
  const [page, setPage] = useState("/");
  const id = idOf(title);
  const add = useMutation({
    mutationFn: () =>
      need(api.POST("/api/sites/{site}/forms", { params: { path: { site } }, body: { id, title, page } })),
    onSuccess: async () => {
      await cache.invalidateQueries({ queryKey: ["sites"] });
      go(`/sites/${site}/forms/${id}/form`);
    },
  });
  return (
    <details className="px-5 pb-3" open={begun || undefined}>
      <summary className="cursor-pointer text-soft">{say.sites.addAForm}</summary>
      <form
        aria-label={say.sites.addAFormTo(site)}
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <label>
          {say.sites.title}{" "}
          <input
            className="field"
            value={title}
            required
            // biome-ignore lint/a11y/noAutofocus: whoever made the site goes on with its form
            autoFocus={begun}
            onChange={(e) => setTitle(e.target.value)}
          />
        </label>
        <label>
          {say.sites.pathOfThePage}{" "}
          <input className="field value" value={page} required onChange={(e) => setPage(e.target.value)} />
        </label>
        <button type="submit" className="button" disabled={!id || add.isPending}>
          {say.sites.createForm}
        </button>
      </form>
      {add.isError && <Trouble error={add.error} />}
    </details>
  );
}

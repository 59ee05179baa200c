import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { go } from "../App";
import { api } from "../api";
import { attempt, longWork, notify } from "../session";
import { setState } from "../store";
import { PlateOnShelf } from "./PlateOnShelf";

/** ShelfPage is the first page: every specimen on a plate. */
export function ShelfPage() {
  const queries = useQueryClient();
  const plates = useQuery({ queryKey: ["plates"], queryFn: api.plates });
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ["plates"] });

  const bring = async (files: Iterable<File>) => {
    for (const file of files) {
      setBusy(true);
      const made = await longWork(`Reading ${file.name}`, (signal) => api.importFile(file, signal));
      setBusy(false);
      if (made) {
        notify("told", `${file.name} is on the Shelf.`);
        setState({ arrived: made.id });
        go(`/specimen/${made.id}`);
      }
    }
    void refresh();
  };

  return (
    <main
      className="min-h-full px-10 py-8"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void bring(e.dataTransfer.files);
      }}
    >
      <header className="flex items-baseline gap-4 mb-6">
        <h1 className="font-serif text-4xl">Myriapod</h1>
        <p className="caption grow">The Shelf: every creature and machine, as it was left</p>
        <button
          type="button"
          className="action"
          onClick={async () => {
            const made = await attempt(() => api.create("New specimen"));
            if (made) go(`/specimen/${made.id}`);
          }}
        >
          New specimen
        </button>
        <button type="button" className="action action-main" disabled={busy} onClick={() => input.current?.click()}>
          {busy ? "Reading…" : "Import a model"}
        </button>
        <input
          ref={input}
          type="file"
          className="hidden"
          aria-label="Model or rig file"
          accept=".obj,.glb,.gltf,.json"
          multiple
          onChange={(e) => {
            void bring([...(e.target.files ?? [])]);
            e.target.value = "";
          }}
        />
      </header>
      {plates.error && <p role="alert">{plates.error.message}</p>}
      {plates.data?.length === 0 && (
        <p className="caption text-lg mt-20 text-center">
          The Shelf is empty. Drop a model here (OBJ or GLB), or import one, to begin.
        </p>
      )}
      <ul className="grid gap-6 grid-cols-[repeat(auto-fill,minmax(300px,1fr))]">
        {plates.data?.map((plate) => (
          <PlateOnShelf key={plate.id} plate={plate} changed={refresh} />
        ))}
        {plates.data && (
          <li
            className={`border border-dashed rounded-sm min-h-40 grid place-items-center text-center p-6 ${over ? "border-violet bg-plate" : "border-ink-soft"}`}
          >
            <span className="caption">
              {over ? "Let go to import" : "Drop a model here: OBJ, GLB, glTF or a rig file"}
            </span>
          </li>
        )}
      </ul>
    </main>
  );
}

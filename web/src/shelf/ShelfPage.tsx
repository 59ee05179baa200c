import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Brought } from "../server/api";
import { ACCEPTED, ofDrop, ofInput } from "../server/brought";
import { attempt, longWork, notify } from "../server/session";
import { go } from "../state/address";
import { setState } from "../state/store";
import type { Plate } from "../wire/wire.gen";
import { PlateOnShelf } from "./PlateOnShelf";

/** usePlates reads what stands on the Shelf: at once, when asked, and whenever the person comes back to the window. */
function usePlates() {
  const [plates, setPlates] = useState<Plate[]>();
  const [error, setError] = useState<string>();
  const refresh = useCallback(async () => {
    try {
      setPlates(await api.plates());
      setError(undefined);
    } catch (met) {
      setError((met as Error).message);
    }
  }, []);
  useEffect(() => {
    void refresh();
    addEventListener("focus", refresh);
    return () => removeEventListener("focus", refresh);
  }, [refresh]);
  return { plates, error, refresh };
}

/** ShelfPage is the first page: every specimen on a plate. */
export function ShelfPage() {
  const { plates, error, refresh } = usePlates();
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState(false);

  const bring = async (all: Brought[]) => {
    for (const brought of all) {
      const { name } = brought.main.file;
      setBusy(true);
      const made = await longWork(`Reading ${name}`, (signal) => api.importFile(brought, signal));
      setBusy(false);
      if (made) {
        notify("told", `${name} is on the Shelf.`);
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
        void ofDrop(e.dataTransfer).then(bring);
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
          accept={ACCEPTED}
          multiple
          onChange={(e) => {
            void bring(ofInput(e.target.files));
            e.target.value = "";
          }}
        />
      </header>
      {error && <p role="alert">{error}</p>}
      {plates?.length === 0 && (
        <p className="caption text-lg mt-20 text-center">
          The Shelf is empty. Drop a model here (OBJ, GLB or glTF, with the files beside it, a folder or a zip), or
          import one, to begin.
        </p>
      )}
      <ul className="grid gap-6 grid-cols-[repeat(auto-fill,minmax(300px,1fr))]">
        {plates?.map((plate) => (
          <PlateOnShelf key={plate.id} plate={plate} changed={refresh} />
        ))}
        {plates && (
          <li
            className={`border border-dashed rounded-sm min-h-40 grid place-items-center text-center p-6 ${over ? "border-violet bg-plate" : "border-ink-soft"}`}
          >
            <span className="caption">
              {over
                ? "Let go to import"
                : "Drop a model here: OBJ, GLB or glTF, its folder or a zip of it, or a rig file"}
            </span>
          </li>
        )}
      </ul>
    </main>
  );
}

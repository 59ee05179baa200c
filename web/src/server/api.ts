import type { Course } from "../wire/course.gen";
import type { Offer, Preview } from "../wire/edit.gen";
import type { Stop } from "../wire/mechanism.gen";
import type { Picked } from "../wire/pick.gen";
import type {
  Created,
  ElementsRequest,
  Entry,
  Export,
  ExportRequest,
  Ground,
  Kinds,
  OddWeights,
  Plate,
  Specimen,
  Weighed,
  Error as WireError,
} from "../wire/wire.gen";
import { MaxUpload } from "../wire/wire.gen";

/** Refusal is an answer of the server that is not a success, in its own words. */
export class Refusal extends Error {
  constructor(readonly body: WireError) {
    super(body.message);
  }
}

async function ask<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  const raw = body instanceof Blob || body instanceof FormData;
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      body: body === undefined ? undefined : raw ? body : JSON.stringify(body),
      headers: body === undefined || raw ? {} : { "Content-Type": "application/json" },
      signal,
    });
  } catch (error) {
    if (signal?.aborted) throw new Refusal({ kind: "stopped", message: "Stopped; nothing was changed." });
    throw new Refusal({
      kind: "broken",
      message: `The server does not answer (${(error as Error).message}). What was kept is safe; start it again and retry.`,
    });
  }
  if (!response.ok) {
    throw new Refusal(
      await response.json().catch(() => ({ kind: "broken", message: `The server answered ${response.status}.` })),
    );
  }
  return (await response.json()) as T;
}

/** Brought is a model with the files beside it that it may name, each with its path; a file alone is one of one. */
export interface Brought {
  main: { path: string; file: File };
  beside: { path: string; file: File }[];
}

/** upload sends what is brought, unless it is larger than the server takes. */
async function upload<T>(path: string, { main, beside }: Brought, signal?: AbortSignal): Promise<T> {
  const all = [main, ...beside];
  if (all.reduce((sum, { file }) => sum + file.size, 0) > MaxUpload) {
    const limit = Math.round(MaxUpload / 2 ** 20);
    throw new Refusal({
      kind: "too-large",
      message: `${main.file.name} is larger than the ${limit} MB that are taken; split it or thin it out.`,
    });
  }
  const named = `${path}file=${encodeURIComponent(main.path)}`;
  if (beside.length === 0) return ask<T>("POST", named, main.file, signal);
  const form = new FormData();
  for (const one of all) form.append("file", one.file, one.path);
  return ask<T>("POST", named, form, signal);
}

export const api = {
  kinds: () => ask<Kinds>("GET", "/kinds"),
  plates: () => ask<Plate[]>("GET", "/specimens"),
  specimen: (id: string) => ask<Specimen>("GET", `/specimens/${id}`),
  create: (name: string) => ask<Created>("POST", "/specimens", { name }),
  importFile: (brought: Brought, signal?: AbortSignal) => upload<Created>("/imports?", brought, signal),
  importInto: (id: string, on: number, brought: Brought, signal?: AbortSignal) =>
    upload<Specimen>(`/specimens/${id}/imports?on=${on}&`, brought, signal),
  duplicate: (id: string) => ask<Created>("POST", `/specimens/${id}/duplicate`),
  remove: (id: string, on: number) => ask<unknown>("DELETE", `/specimens/${id}?on=${on}`),
  restore: (id: string) => ask<unknown>("POST", `/specimens/${id}/restore`),
  edit: (id: string, on: number, edit: unknown, job: string, signal?: AbortSignal) =>
    ask<Specimen>("POST", `/specimens/${id}/edits`, { on, edit, job }, signal),
  undo: (id: string, on: number) => ask<Specimen>("POST", `/specimens/${id}/undo?on=${on}`),
  redo: (id: string, on: number) => ask<Specimen>("POST", `/specimens/${id}/redo?on=${on}`),
  goTo: (id: string, on: number, revision: number) =>
    ask<Specimen>("POST", `/specimens/${id}/goto?on=${on}`, { revision }),
  history: (id: string) => ask<Entry[]>("GET", `/specimens/${id}/history`),
  foresee: (id: string, edit: unknown) => ask<Preview>("POST", `/specimens/${id}/foresee`, { edit }),
  course: (id: string, request: unknown, signal: AbortSignal) =>
    ask<Course>("POST", `/specimens/${id}/course`, request, signal),
  offers: (id: string, chosen: string[]) => ask<Offer[]>("POST", `/specimens/${id}/offers`, { chosen }),
  elements: (id: string, request: Partial<ElementsRequest>) =>
    ask<Picked>("POST", `/specimens/${id}/elements`, request),
  ground: (id: string) => ask<Ground>("GET", `/specimens/${id}/ground`),
  stops: (id: string) => ask<Stop[]>("GET", `/specimens/${id}/stops`),
  oddWeights: (id: string, part: string, most: number) =>
    ask<OddWeights>("GET", `/specimens/${id}/parts/${part}/odd?most=${most}`),
  weightsOf: (id: string, part: string, vertices: number[]) =>
    ask<Weighed[]>("POST", `/specimens/${id}/parts/${part}/weights`, { vertices: vertices.slice(0, 200) }),
  startExport: (id: string, request: ExportRequest) => ask<Export>("POST", `/specimens/${id}/exports`, request),
  export: (job: string) => ask<Export>("GET", `/exports/${job}`),
  stopExport: (job: string) => ask<Export>("DELETE", `/exports/${job}`),
  blob: async (id: string, hash: string): Promise<ArrayBuffer> => {
    const response = await fetch(`/api/specimens/${id}/blobs/${hash}`);
    if (!response.ok) throw new Refusal((await response.json()) as WireError);
    return response.arrayBuffer();
  },
};

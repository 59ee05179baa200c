import { state } from "../state/store";
import type { Mistake } from "../text/formula";
import type { Course } from "../wire/course.gen";
import type { Preview } from "../wire/edit.gen";
import type { Change } from "../wire/edits.gen";
import type { Address } from "../wire/rig.gen";
import { api, Refusal } from "./api";

/** namesCopy tells whether anything in a change is a copy that a repeat makes. */
function namesCopy(value: unknown): boolean {
  const origins = state().specimen?.origins ?? {};
  if (typeof value === "string") return value in origins;
  if (Array.isArray(value)) return value.some(namesCopy);
  return typeof value === "object" && value !== null && Object.values(value).some(namesCopy);
}

/** meant is a change as the person means it: for the copies it names alone, or for their source and so for all. */
export const meant = (change: Change): Change =>
  state().only && namesCopy(change) ? { kind: "on-copy", edit: change } : change;

/** foresee asks what an edit would do. A refusal comes back in words. */
export async function foresee(change: Change): Promise<Preview | string | undefined> {
  const specimen = state().specimen;
  if (!specimen) return undefined;
  return api.foresee(specimen.id, meant(change)).catch((error: Error) => error.message);
}

/** mistakeOf asks what an edit would be refused for, with the place in its text where there is one; nothing where it would be taken. */
export async function mistakeOf(change: Change): Promise<Mistake | undefined> {
  const specimen = state().specimen;
  if (!specimen) return undefined;
  return api.foresee(specimen.id, meant(change)).then(
    () => undefined,
    (error: Error) => ({ message: error.message, at: error instanceof Refusal ? error.body.at : undefined }),
  );
}

/** courseOf asks how a number goes along a clip; nothing where it cannot be told, as after a change that would be refused. */
export async function courseOf(
  request: { of: Address; clip: string; edit?: Change },
  signal: AbortSignal,
): Promise<Course | undefined> {
  const specimen = state().specimen;
  if (!specimen) return undefined;
  const asked = { ...request, edit: request.edit && meant(request.edit) };
  return api.course(specimen.id, asked, signal).catch(() => undefined);
}

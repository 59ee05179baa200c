import { edit } from "../server/session";

/** GroundTools brings the ground to where the feet stand. */
export function GroundTools() {
  return (
    <button
      type="button"
      className="action mt-2"
      title="Raises or lowers it until the first foot touches it at rest."
      onClick={() => void edit({ kind: "set-ground-under" })}
    >
      Set under the feet
    </button>
  );
}

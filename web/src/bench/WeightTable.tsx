import { useMyriapod } from "../state/store";

/** WeightTable tells what the vertex under the pointer goes with, while weights are shown. */
export function WeightTable() {
  const shown = useMyriapod((s) => s.step === "skin" && s.weighing !== "plain" && s.chosen.length === 1);
  const weighed = useMyriapod((s) => s.weighed);
  const joints = useMyriapod((s) => s.specimen?.document.joints);
  if (!shown || !weighed) return null;
  return (
    <table
      className="absolute left-4 bottom-10 bg-plate/90 border border-rule pointer-events-none"
      data-weighed={weighed.vertex}
    >
      <caption className="caption text-left px-2">{`vertex ${weighed.vertex}`}</caption>
      <tbody>
        {weighed.joints.map((id, i) => (
          <tr key={id}>
            <td className="px-2">{joints?.find((j) => j.id === id)?.name ?? id}</td>
            <td className="px-2 figure text-right">{(weighed.values[i] ?? 0).toFixed(3)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

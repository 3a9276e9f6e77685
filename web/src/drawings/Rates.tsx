import type { DrawnProps } from "./props";

const SAYS = { below: "too little", inside: "inside the target", above: "too much" };
const MARK = { below: "▽", inside: "■", above: "△" };

/** Settings by speeds: each cell says by its shape and shade whether it is below, inside or above the target. */
export function RatesDrawing({ drawing }: DrawnProps<"rates">) {
  const speeds = drawing.speeds ?? [];
  const rows = drawing.rows ?? [];
  const gate = drawing.gate ?? [];
  return (
    <div className="rate-field">
      {rows.length > 0 ? (
        <table aria-label={`What each setting gives at each speed, in ${drawing.unit}`}>
          <thead>
            <tr>
              <th scope="col">setting</th>
              <th scope="col">turns</th>
              {speeds.map((speed) => (
                <th key={speed} scope="col">
                  {speed}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.setting}>
                <th scope="row">{row.setting}</th>
                <td className="rate-turns">
                  {row.turns}
                  {row.end && <small> at its end</small>}
                </td>
                {(row.cells ?? []).map((cell, place) => (
                  <td
                    key={speeds[place]}
                    className={`rate-${cell.zone}${cell.working ? " rate-working" : ""}`}
                    aria-label={`${cell.text}, ${SAYS[cell.zone]}${cell.working ? ", where the work is done" : ""}`}
                  >
                    <i aria-hidden="true">{MARK[cell.zone]}</i> {cell.text}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="soft mb-0">The chart stands here once turns and a catch are in.</p>
      )}
      <dl>
        {drawing.target && (
          <div>
            <dt>wanted</dt>
            <dd>{drawing.target}</dd>
          </div>
        )}
        {gate.length > 0 && (
          <div>
            <dt>gate, at each side</dt>
            <dd>{gate.join(" and ")}</dd>
          </div>
        )}
      </dl>
    </div>
  );
}

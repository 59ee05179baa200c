/** Units that may be typed behind a number, by the unit of the field: how many of the field's unit one of them is. */
const UNITS: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 0.01, mm: 0.001, km: 1000 },
  "°": { "°": 1, deg: 1, rad: 180 / Math.PI, turn: 360, turns: 360 },
  "/s": { "/s": 1, "/min": 1 / 60 },
  "/m": { "/m": 1, "/cm": 100 },
  "×": { "×": 1, x: 1 },
};

/**
 * readNumber works out what a person typed: numbers with + - * / and brackets, each with a unit if they like. It returns
 * undefined for what is not a finite number.
 */
export function readNumber(text: string, unit = ""): number | undefined {
  const units = UNITS[unit] ?? {};
  const tokens =
    text.replaceAll(",", ".").match(/\d*\.?\d+(?:e[-+]?\d+)?|[a-z°]+|\/(?:s|min|m|cm)\b|[-+*/()]|\S/gi) ?? [];
  let at = 0;
  const sum = (): number => {
    let value = product();
    while (tokens[at] === "+" || tokens[at] === "-") value += tokens[at++] === "+" ? product() : -product();
    return value;
  };
  const product = (): number => {
    let value = factor();
    while (tokens[at] === "*" || tokens[at] === "/") value = tokens[at++] === "*" ? value * factor() : value / factor();
    return value;
  };
  const factor = (): number => {
    const token = tokens[at++];
    if (token === "-") return -factor();
    if (token === "+") return factor();
    let value: number;
    if (token === "(") {
      value = sum();
      if (tokens[at++] !== ")") return Number.NaN;
    } else value = token === undefined ? Number.NaN : Number(token);
    const scale = units[tokens[at]?.toLowerCase() ?? ""];
    if (scale !== undefined) {
      at++;
      value *= scale;
    }
    return value;
  };
  const value = sum();
  return at === tokens.length && Number.isFinite(value) ? value : undefined;
}

/** figure writes a number for a person: as many decimals as its size deserves, without a tail of zeros beyond them. */
export function figure(value: number, decimals = 3): string {
  if (!Number.isFinite(value)) return "?";
  const text = value.toFixed(Math.abs(value) >= 100 ? Math.min(1, decimals) : decimals);
  return /^-0\.?0*$/.test(text) ? text.slice(1) : text;
}

/** length writes metres in the unit that suits their size. */
export function length(metres: number): string {
  const size = Math.abs(metres);
  if (size === 0) return "0.000 mm";
  if (size < 5e-7) return "0.000 mm";
  if (size < 0.1) return `${(metres * 1000).toFixed(3)} mm`;
  return `${metres.toFixed(3)} m`;
}

/** difference writes a distance that should be nothing: in micrometres while it is smaller than a tenth of a millimetre. */
export function difference(metres: number): string {
  return metres < 1e-4 ? `${(metres * 1e6).toFixed(2)} µm` : length(metres);
}

export const DEGREE = Math.PI / 180;

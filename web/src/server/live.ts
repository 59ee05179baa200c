import type { Address } from "../wire/rig.gen";
import type { Ask, Brushed, BrushedDual, Sculpting, Tell } from "../wire/wire.gen";

type Vector = [number, number, number];

/** Frame is one state of the stage as the core evaluated it; docs/live.md describes its bytes. */
export interface Frame {
  seq: number;
  sequence: number;
  time: number;
  joints: Float32Array; // 12 a joint: x axis, y axis, z axis, position
  controls: Float32Array; // 18 a control: the same twelve, then six channels
  goesOn: boolean; // it changes by itself: what has memory has not come to rest
  curves: { owner: number; points: Float32Array }[]; // whose it is, by its place among the mechanisms; x, y, z of each sample
  morphs: Float32Array; // how much of each morph target is mixed in, part after part
  dials: Float32Array; // the dials, control after control
  idle: Float32Array; // by control: 1 while it moves nothing
  driven: Float32Array; // driver after driver, what has come of the number that it drives
  measures: Float32Array;
  instances: { part: number; count: number; instead: boolean; matrices: Float32Array }[]; // parts drawn many times, beside themselves or instead, 12 numbers each
  compared?: { part: number; greatest: number; mean: number; apart: Float32Array }; // how far two bindings of a part are apart, metres
  deformed: Map<number, { positions: Float32Array; normals: Float32Array }>; // by part: vertices that no skin can say
}

/** Aim is what is sought under the pointer: a ray, and what the place keeps to. */
export type Aim = Pick<Ask, "origin" | "direction"> &
  Partial<Pick<Ask, "snap" | "from" | "facing" | "step" | "lock" | "lockAt" | "except">>;

export const JOINT_STRIDE = 12;
export const CONTROL_STRIDE = 18;
const MAGIC = 0x3246594d;
const CURVE_STRIDE = 1 + 3 * 64;

export function decodeFrame(data: ArrayBuffer): Frame {
  const head = new DataView(data);
  if (head.getUint32(0, true) !== MAGIC) throw new Error("the live channel sent something that is not a frame");
  const word = (at: number) => head.getUint32(at, true);
  const sections = new Map<string, Float32Array>();
  let at = 24;
  for (let i = 0; i < word(20); i++) {
    const tag = String.fromCharCode(...new Uint8Array(data, at, 4));
    const length = word(at + 4);
    sections.set(tag, new Float32Array(data, at + 8, length));
    at += 8 + 4 * length;
  }
  const section = (tag: string) => sections.get(tag) ?? new Float32Array();
  const curves = section("curv");
  return {
    seq: word(4),
    sequence: word(8),
    time: head.getFloat32(12, true),
    goesOn: (word(16) & 1) !== 0,
    joints: section("join"),
    controls: section("ctrl"),
    curves: Array.from({ length: curves.length / CURVE_STRIDE }, (_, i) => ({
      owner: curves[i * CURVE_STRIDE] ?? -1,
      points: curves.subarray(i * CURVE_STRIDE + 1, (i + 1) * CURVE_STRIDE),
    })),
    morphs: section("morf"),
    dials: section("dial"),
    idle: section("idle"),
    driven: section("drvn"),
    measures: section("meas"),
    instances: instancesIn(section("inst")),
    deformed: deformedIn(section("dfrm")),
    compared: comparedIn(section("cmpr")),
  };
}

function instancesIn(numbers: Float32Array): Frame["instances"] {
  const sets: Frame["instances"] = [];
  for (let at = 0; at < numbers.length; ) {
    const [part = -1, count = 0, instead = 0] = numbers.subarray(at + 1, at + 4);
    sets.push({ part, count, instead: instead > 0, matrices: numbers.subarray(at + 4, at + 4 + 12 * count) });
    at += 4 + 12 * count;
  }
  return sets;
}

function deformedIn(numbers: Float32Array): Frame["deformed"] {
  const parts: Frame["deformed"] = new Map();
  for (let at = 0; at < numbers.length; ) {
    const [part = -1, count = 0] = numbers.subarray(at, at + 2);
    const first = at + 2;
    parts.set(part, {
      positions: numbers.subarray(first, first + 3 * count),
      normals: numbers.subarray(first + 3 * count, first + 6 * count),
    });
    at = first + 6 * count;
  }
  return parts;
}

function comparedIn(numbers: Float32Array): Frame["compared"] {
  if (numbers.length === 0) return undefined;
  const [part = -1, greatest = 0, mean = 0, count = 0] = numbers.subarray(0, 4);
  return { part, greatest, mean, apart: numbers.subarray(4, 4 + count) };
}

/**
 * Live is the channel to the core. Only the newest pose is sent, and only when the answer to the one before has come, so
 * that neither side ever runs behind.
 */
export class Live {
  private socket?: WebSocket;
  private waiting?: Omit<Ask, "seq">;
  private underway = false;
  private seq = 0;
  private closed = false;
  private retry = 0;

  constructor(
    private readonly specimen: string,
    private readonly on: { frame(frame: Frame): void; tell(tell: Tell): void; state(open: boolean): void },
  ) {
    this.open();
  }

  private open() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/api/specimens/${this.specimen}/live`);
    socket.binaryType = "arraybuffer";
    this.socket = socket;
    socket.onopen = () => {
      this.retry = 0;
      this.underway = false;
      this.on.state(true);
      this.flush();
    };
    socket.onmessage = ({ data }) => {
      if (typeof data === "string") return this.on.tell(JSON.parse(data) as Tell);
      this.underway = false;
      this.on.frame(decodeFrame(data as ArrayBuffer));
      this.flush();
    };
    socket.onclose = () => {
      if (this.closed) return;
      this.on.state(false);
      this.retry = Math.min(this.retry + 1, 6);
      setTimeout(() => !this.closed && this.open(), 150 * 2 ** this.retry);
    };
  }

  /** pose asks for a state of the stage. */
  pose(ask: Omit<Ask, "seq" | "type">) {
    this.waiting = { ...ask, type: "pose" };
    this.flush();
  }

  /** seek asks for the place under a ray; the answer comes as a tell with the number returned. */
  seek(aim: Aim): number {
    this.send({ ...aim, type: "centre", time: 0 } as Omit<Ask, "seq">);
    return this.seq;
  }

  /** trace asks what moves a joint in the present pose. */
  trace(joint: string) {
    this.send({ type: "trace", time: 0, joint } as Omit<Ask, "seq">);
  }

  /** traceNumber asks how a number comes about in the present pose. */
  traceNumber(number: Address) {
    this.send({ type: "trace", time: 0, number } as Omit<Ask, "seq">);
  }

  /** match asks for a mechanism to take charge of its joints as they stand. */
  match(mechanism: string) {
    this.send({ type: "match", time: 0, mechanism } as Omit<Ask, "seq">);
  }

  /** switchSpace asks for a control to hang on another of its spaces and stay where it stands. */
  switchSpace(control: string, value: number, dial?: string) {
    this.send({ type: "switch", time: 0, control, value, dial } as Omit<Ask, "seq">);
  }

  close() {
    this.closed = true;
    this.socket?.close();
  }

  private flush() {
    if (this.underway || !this.waiting || this.socket?.readyState !== WebSocket.OPEN) return;
    this.underway = true;
    this.send(this.waiting);
    this.waiting = undefined;
  }

  /** weigh asks what the vertex of a part under a ray goes with. */
  weigh(part: string, origin: Vector, direction: Vector) {
    this.send({ type: "weigh", time: 0, weigh: part, origin, direction } as Omit<Ask, "seq">);
  }

  /** paint puts a brush on a part where a ray meets it; begin tells that a stroke begins. */
  paint(
    paint: Brushed | undefined,
    paintDual: BrushedDual | undefined,
    begin: boolean,
    origin: Vector,
    direction: Vector,
    press: number,
  ) {
    this.send({ type: "paint", time: 0, paint, paintDual, begin, origin, direction, press } as Omit<Ask, "seq">);
  }

  /** sculpt takes hold of a morph target where a ray meets the part, or brings the hand there. */
  sculpt(sculpt: Sculpting, begin: boolean, origin: Vector, direction: Vector, facing: Vector) {
    this.send({ type: "sculpt", time: 0, sculpt, begin, origin, direction, facing } as Omit<Ask, "seq">);
  }

  /** letGo ends a stroke of the hand: what is kept is shown. */
  letGo() {
    this.send({ type: "sculpt", time: 0, end: true } as Omit<Ask, "seq">);
  }

  private send(ask: Omit<Ask, "seq">) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ ...ask, seq: ++this.seq }));
  }
}

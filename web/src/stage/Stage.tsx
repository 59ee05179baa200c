import { Canvas, useThree } from "@react-three/fiber";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { MOUSE, type PerspectiveCamera } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { handOf, setState, state, useDocument, useMyriapod } from "../state/store";
import { Axes } from "./Axes";
import { Ground } from "./Ground";
import { Curves, Handles } from "./Handles";
import { Instances } from "./Instances";
import { Laying } from "./Laying";
import { Parts } from "./Parts";
import { Picked } from "./Picked";
import { endStroke, painting, startStroke, strokeTo, weighAt } from "./painting";
import { pickUnder, pickWindow } from "./picking";
import { choose, pick, placeAt, seekAgain, seekCentre, startDrag } from "./pointer";
import { letGoOfClay, sculpting, sculptTo, takeHold } from "./sculpting";
import "./probe";
import { Skeleton } from "./Skeleton";
import { Stops } from "./Stops";
import { Swaying } from "./Swaying";
import { fitMatrix, look, ROD_ASIDE, view } from "./view";

function Camera({ onMove }: { onMove(perPixel: number): void }) {
  const { camera, scene, gl, invalidate, size } = useThree();
  const id = useMyriapod((s) => s.specimen?.id);
  const parts = useMyriapod((s) => s.specimen?.document.parts.length);
  useEffect(() => {
    Object.assign(view, { camera: camera as PerspectiveCamera, scene, canvas: gl.domElement, invalidate });
  }, [camera, scene, gl, invalidate]);
  useEffect(() => {
    const orbit = new OrbitControls(camera, gl.domElement);
    orbit.zoomToCursor = true;
    orbit.mouseButtons = { LEFT: MOUSE.ROTATE, MIDDLE: MOUSE.PAN, RIGHT: MOUSE.PAN };
    view.orbit = orbit;
    return () => {
      view.orbit = undefined;
      orbit.dispose();
    };
  }, [camera, gl]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another specimen or model is framed anew
  useEffect(() => {
    setState({ framed: false });
    void look("perspective").then(() => setState({ framed: true }));
  }, [id, parts]);
  const fitting = useMyriapod((s) => s.fitting);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the model as it would be fitted is framed with the rod
  useEffect(() => {
    if (view.camera) void look();
  }, [fitting]);
  useEffect(() => {
    const orbit = view.orbit as OrbitControls | undefined;
    const changed = () => {
      if (!orbit) return;
      invalidate();
      seekAgain();
      const distance = camera.position.distanceTo(orbit.target);
      onMove((2 * distance * Math.tan(((camera as PerspectiveCamera).fov * Math.PI) / 360)) / size.height);
    };
    orbit?.addEventListener("change", changed);
    return () => orbit?.removeEventListener("change", changed);
  }, [camera, invalidate, onMove, size.height]);
  return null;
}

function Light() {
  const size = useMyriapod((s) => s.size);
  return (
    <>
      <hemisphereLight args={["#fffaf0", "#b9ab8f", 2.1]} />
      <directionalLight
        key={size}
        position={[-0.7 * size, 2.2 * size, 0.9 * size]}
        intensity={1.9}
        color="#fff4df"
        castShadow
        shadow-mapSize={[1024, 1024]}
        shadow-camera-left={-size}
        shadow-camera-right={size}
        shadow-camera-top={size}
        shadow-camera-bottom={-size}
        shadow-camera-far={6 * size}
        shadow-bias={-0.002}
      />
      <directionalLight position={[4, 2, -5]} intensity={0.5} color="#dfe8ff" />
    </>
  );
}

/** Announce tells, on the stage's element, which frame is drawn, for tests and for assistive scripts. */
function Announce() {
  const gl = useThree((three) => three.gl);
  const open = useMyriapod((s) => s.open);
  useEffect(() => {
    if (open) seekAgain();
  }, [open]);
  useEffect(() => {
    let shaded = state().frame;
    const tell = () => {
      const stage = gl.domElement.closest<HTMLElement>("[data-stage]");
      const { frame, framed, saving, specimen } = state();
      if (frame !== shaded) gl.shadowMap.needsUpdate = true; // shadows change with the frame, not with the view
      shaded = frame;
      if (stage) {
        stage.dataset.framed = String(framed);
        stage.dataset.saving = String(saving);
        stage.dataset.kept = String(specimen?.sequence ?? 0);
      }
      if (stage && frame) {
        stage.dataset.sequence = String(frame.sequence);
        stage.dataset.seq = String(frame.seq);
      }
      if (stage) announceLaying(stage);
    };
    tell();
    return useMyriapod.subscribe(tell);
  }, [gl]);
  return null;
}

function announceLaying(stage: HTMLElement) {
  const { laying } = state();
  const at = laying?.centre && window.myriapodStage.onScreen(laying.centre);
  stage.dataset.laid = laying ? String(laying.places.length) : "";
  stage.dataset.centre = String(!!at);
  if (at) {
    stage.dataset.centreX = String(at.x);
    stage.dataset.centreY = String(at.y);
  }
}

/** Scale is a measuring rule of a round length. */
function Scale({ perPixel }: { perPixel: number }) {
  const wanted = perPixel * 120;
  const power = 10 ** Math.floor(Math.log10(wanted));
  const length = [5, 2, 1].map((n) => n * power).find((n) => n <= wanted) ?? power;
  const text =
    length >= 1
      ? `${length} m`
      : length >= 0.01
        ? `${Math.round(length * 100)} cm`
        : `${+(length * 1000).toPrecision(1)} mm`;
  return (
    <div className="absolute right-5 bottom-3 text-center pointer-events-none" aria-hidden>
      <div className="border-x border-b border-ink h-2" style={{ width: length / perPixel }} />
      <span className="figure">{text}</span>
    </div>
  );
}

/** BrushRing is the brush under the pointer: where it ends, and where it has fallen off by half. */
function BrushRing({ at, radius }: { at: { x: number; y: number }; radius: number }) {
  return (
    <svg className="absolute inset-0 w-full h-full pointer-events-none" aria-hidden data-ring>
      <circle cx={at.x} cy={at.y} r={radius} fill="none" stroke="var(--color-ink)" strokeWidth="1.4" />
      <circle cx={at.x} cy={at.y} r={radius / 2} fill="none" stroke="var(--color-ink)" strokeDasharray="2 4" />
    </svg>
  );
}

/** pressOf is how hard a pen presses, 0 to 1; 0 for what does not say. */
const pressOf = (event: { pointerType: string; pressure: number }) =>
  event.pointerType === "pen" ? Math.max(0.01, event.pressure) : 0;

const CURSORS = { knob: "alias", control: "grab", joint: "pointer", part: "pointer" };

/** Stage is the plate with the specimen in 3D. */
export function Stage() {
  const document = useDocument();
  const id = useMyriapod((s) => s.specimen?.id);
  const laying = useMyriapod((s) => !!s.laying);
  const placing = useMyriapod((s) => !!s.placing);
  const [perPixel, setPerPixel] = useState(0.005);
  const brush = useMyriapod((s) => s.brush);
  const hand = useMyriapod(handOf);
  const reach = brush?.reach ?? hand?.reach;
  const [ring, setRing] = useState<{ x: number; y: number }>();
  const moveRing = (x: number, y: number) => setRing({ x, y });
  const [cursor, setCursor] = useState("default");
  const surface = useRef<HTMLDivElement>(null);
  const drag = useRef<ReturnType<typeof startDrag>>(undefined);
  const window = useRef<{ x: number; y: number }>(undefined);
  const [rectangle, setRectangle] = useState<{ x: number; y: number; w: number; h: number }>();
  const press = useRef<{ x: number; y: number; id?: string } | undefined>(undefined);

  const at = (event: { clientX: number; clientY: number }) => {
    const box = surface.current?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  };

  if (!document || !id) return null;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the 3D picture is for the pointer; map, register and card do the same by keyboard
    <div
      ref={surface}
      className="absolute inset-0"
      data-stage
      data-mechanisms={document.mechanisms.length}
      style={{ cursor: brush || hand ? "none" : laying || placing ? "crosshair" : cursor }}
      onPointerDownCapture={(event) => {
        if (event.button !== 0) return;
        const { x, y } = at(event);
        if (state().picking?.window) {
          window.current = { x, y };
          setRectangle({ x, y, w: 0, h: 0 });
          if (view.orbit) view.orbit.enabled = false;
          event.currentTarget.setPointerCapture(event.pointerId);
          return;
        }
        if (!event.altKey && (takeHold(x, y) || startStroke(x, y, pressOf(event)))) {
          if (view.orbit) view.orbit.enabled = false;
          event.currentTarget.setPointerCapture(event.pointerId);
          return;
        }
        const hit = pick(x, y);
        press.current = { x, y, id: hit?.id };
        drag.current = startDrag(hit, x, y, { alt: event.altKey, shift: event.shiftKey });
        if (hit && hit.kind !== "knob" && !state().chosen.includes(hit.id)) choose(hit.id, event.shiftKey);
        else if (hit && event.shiftKey && !state().shaping) choose(hit.id, true);
        if (view.orbit) view.orbit.enabled = !drag.current;
        if (drag.current) event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMoveCapture={(event) => {
        const { x, y } = at(event);
        if (window.current) {
          const { x: x0, y: y0 } = window.current;
          return setRectangle({ x: Math.min(x, x0), y: Math.min(y, y0), w: Math.abs(x - x0), h: Math.abs(y - y0) });
        }
        if ((state().brush || handOf(state())) && !event.altKey) {
          moveRing(x, y);
          if (sculpting()) sculptTo(x, y);
          else if (painting()) strokeTo(x, y, pressOf(event));
          else weighAt(x, y);
          if (state().hovered) setState({ hovered: undefined });
          return;
        }
        if (drag.current) {
          if (Math.hypot(x - (press.current?.x ?? x), y - (press.current?.y ?? y)) > 2) drag.current.move(x, y);
          return;
        }
        if (event.buttons !== 0) return;
        weighAt(x, y);
        if (state().laying) return seekCentre(x, y);
        if (state().picking) return pickUnder(x, y);
        const hit = pick(x, y);
        setCursor(hit ? CURSORS[hit.kind] : "default");
        if (state().hovered !== hit?.id) setState({ hovered: hit?.id });
      }}
      onPointerUpCapture={(event) => {
        const { x, y } = at(event);
        if (window.current) {
          void pickWindow(window.current, { x, y }, event.shiftKey);
          window.current = undefined;
          setRectangle(undefined);
          if (view.orbit) view.orbit.enabled = true;
          return;
        }
        if (painting() || sculpting()) {
          endStroke();
          letGoOfClay();
          if (view.orbit) view.orbit.enabled = true;
          return;
        }
        const still = press.current && Math.hypot(x - press.current.x, y - press.current.y) < 4;
        const { laying } = state();
        drag.current?.end();
        if (!drag.current && still && laying?.centre && event.button === 0) {
          setState({ laying: { ...laying, places: [...laying.places, laying.centre] } });
        } else if (still && event.button === 0 && state().placing) placeAt(x, y);
        else if (still && event.button === 0 && state().picking) pickUnder(x, y, event.shiftKey);
        else if (still && event.button === 0 && !laying && !press.current?.id && !event.shiftKey)
          choose(undefined, false);
        drag.current = undefined;
        press.current = undefined;
        if (view.orbit) view.orbit.enabled = true;
      }}
      onPointerLeave={() => state().hovered && setState({ hovered: undefined })}
      onContextMenu={(event) => event.preventDefault()}
    >
      <Canvas
        frameloop="demand"
        onCreated={({ gl }) => {
          gl.shadowMap.autoUpdate = false;
          gl.shadowMap.needsUpdate = true;
        }}
        shadows
        dpr={[0.2, 2]}
        resize={{ debounce: 0 }}
        camera={{ fov: 32, position: [3, 2, 3] }}
        gl={{ antialias: true }}
        aria-hidden
      >
        <color attach="background" args={["#f8f4ea"]} />
        <Light />
        <Camera onMove={setPerPixel} />
        <Announce />
        <Paper />
        <Ground document={document} specimen={id} />
        <Fitted>
          <Parts document={document} specimen={id} />
          <Instances document={document} specimen={id} />
        </Fitted>
        <Picked document={document} specimen={id} />
        <Curves />
        <Swaying />
        <Skeleton document={document} />
        <Axes document={document} />
        <Handles document={document} />
        <Stops document={document} specimen={id} />
        <Laying />
      </Canvas>
      {reach && ring && <BrushRing at={ring} radius={reach / perPixel} />}
      <Scale perPixel={perPixel} />
      {rectangle && (
        <div
          className="absolute border border-violet bg-violet/10 pointer-events-none"
          style={{ left: rectangle.x, top: rectangle.y, width: rectangle.w, height: rectangle.h }}
        />
      )}
    </div>
  );
}

/** Fitted shows the model as it would be fitted, beside a measuring rod as tall as a person. */
function Fitted({ children }: { children: ReactNode }) {
  const fitting = useMyriapod((s) => s.fitting);
  const invalidate = useThree((three) => three.invalidate);
  const gl = useThree((three) => three.gl);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shadow is fitted with the model
  useEffect(() => {
    gl.shadowMap.needsUpdate = true;
    invalidate();
  }, [fitting, gl, invalidate]);
  if (!fitting) return children;
  return (
    <>
      <group matrixAutoUpdate={false} matrix={fitMatrix(fitting)}>
        {children}
      </group>
      <Rod />
    </>
  );
}

/** BANDS are the heights of the rod's bands, in metres. */
const BANDS = Array.from({ length: 18 }, (_, i) => i / 10);

/** Rod is a rod of 1.8 m with a band at every decimetre, a red one at the metre. */
function Rod() {
  return (
    <group position={[-ROD_ASIDE, 0, 0]}>
      {BANDS.map((height, i) => (
        <mesh key={height} position={[0, height + 0.05, 0]} raycast={() => {}}>
          <cylinderGeometry args={[0.012, 0.012, 0.1, 10]} />
          <meshBasicMaterial color={i % 2 === 0 ? "#23292c" : i === 9 ? "#c8432b" : "#f8f4ea"} />
        </mesh>
      ))}
    </group>
  );
}

/** Paper is a sheet of measuring paper under the specimen, as large as suits it, and the shadow on it; it goes with the helpers. */
function Paper() {
  const sight = useMyriapod((s) => s.sights.helpers);
  const size = useMyriapod((s) => s.size);
  if (sight === "hidden") return null;
  const cell = 10 ** Math.round(Math.log10(size / 12));
  const cells = Math.min(60, 2 * Math.ceil((0.9 * size) / cell));
  return (
    <>
      <gridHelper args={[cells * cell, cells, "#cdbf9f", "#e4dac3"]} position={[0, -0.001 * size, 0]} />
      <mesh rotation={[-Math.PI / 2, 0, 0]} receiveShadow>
        <planeGeometry args={[4 * size, 4 * size]} />
        <shadowMaterial opacity={0.16} />
      </mesh>
    </>
  );
}

// Code generated from core/edit by scripts/edits. DO NOT EDIT.
import type { ChannelChange } from "./edit.gen";
import type { Set } from "./parameter.gen";
import type { Address, Channel, Dial } from "./rig.gen";

/** Change is an edit of the document, by its kind. */
export type Change =
  | { kind: "add-clip"; name: string; start: number; end: number; loop: boolean }
  | { kind: "add-control"; name: string; at?: Array<string>; space?: string; free?: boolean; upright?: boolean; position: number[]; shape: string; reach?: number }
  | { kind: "add-dial"; controls: Array<string>; dial: Dial }
  | { kind: "add-driver"; driver: string; drives: Address; by?: Array<Address>; parameters?: Set }
  | { kind: "add-group"; name: string; members?: Array<string>; like?: Array<string>; of?: Array<string>; colour?: string; sight?: string; locked?: boolean; backstage?: boolean }
  | { kind: "add-measure"; measure: string; name: string; of: Array<string>; axis: number[] }
  | { kind: "add-mechanism"; mechanism: string; name: string; joints?: Array<string>; host?: string; options?: Set; parameters?: Set; blend?: boolean; roles?: Record<string, Array<string>>; places?: Array<number[]> }
  | { kind: "add-morph"; part: string; name: string; second?: string; corrects?: Array<string> }
  | { kind: "add-parts"; from: string; parts: Array<{ name: string; mesh: string; vertices: number; colour: string; joints?: Array<number>; weights?: string; morphs?: Array<{ name: string; deltas: string; value: number }>; look?: { material: string; images?: Array<string> } }>; joints?: Array<{ name: string; parent: number; position: number[]; rotation: number[] }>; clips?: Array<{ name: string; end: number; jointTracks?: Array<{ joint: string; property: string; keys: Array<{ frame: number; value: number[]; ease: string }> }>; morphTracks?: Array<{ part: string; morph: string; keys: Array<{ frame: number; value: number; ease: string }> }> }>; notes?: Array<string> }
  | { kind: "add-range-clip"; name?: string; controls?: Array<string> }
  | { kind: "add-repeat"; name: string; rule: string; sources: Array<string>; point?: number[]; direction?: number[]; count?: number; stations?: Array<string>; like?: string; replace?: string; pattern?: string; through?: boolean; stand?: string; ground?: boolean; draws?: boolean }
  | { kind: "add-swing"; name: string; drives?: Array<Address>; like?: string; on?: string }
  | { kind: "arrange-controls"; mechanism: string; controls: Array<string>; places: Array<number> }
  | { kind: "bind"; parts: Array<string>; joints: Array<string>; method?: string; blend?: number; alike?: boolean; keep?: boolean }
  | { kind: "bind-rigid"; parts: Array<string>; joint: string; faces?: Array<number>; alike?: boolean }
  | { kind: "change-channels"; controls: Array<string>; changes: Array<ChannelChange> }
  | { kind: "change-clip"; clip: string; start: number; end: number; loop: boolean; preRoll?: number }
  | { kind: "change-dial"; control: string; name: Channel; dial: Dial; time?: number; clip?: string }
  | { kind: "change-driver"; id: string; by?: Array<Address>; on?: boolean; parameters?: Set }
  | { kind: "change-group"; group: string; add?: Array<string>; like?: Array<string>; of?: Array<string>; remove?: Array<string>; colour?: string; sight?: string; locked?: boolean; backstage?: boolean }
  | { kind: "change-part"; part: string; sight?: string; locked?: boolean; colour?: string }
  | { kind: "change-repeat"; repeat: string; point?: number[]; direction?: number[]; count?: number; stations?: Array<string>; replace?: string; pattern?: string; stand?: string; ground?: boolean; draws?: boolean }
  | { kind: "change-skin"; parts: Array<string>; dual: number }
  | { kind: "change-specimen"; name?: string; fps?: number }
  | { kind: "close-rims"; part: string; morph: string; one: Array<number>; other: Array<number>; share: number; reach: number }
  | { kind: "colour-controls"; controls: Array<string>; colour: string }
  | { kind: "copy-weights"; from: string; to: Array<string>; byOrder?: boolean; alike?: boolean }
  | { kind: "delete-clip"; clip: string }
  | { kind: "delete-controls"; controls: Array<string> }
  | { kind: "delete-joints"; joints: Array<string>; below?: boolean }
  | { kind: "delete-keys"; clip: string; keys: Array<{ control: string; channel: Channel; frame: number }> }
  | { kind: "detach-repeat"; repeat: string }
  | { kind: "divide-chain"; joints: Array<string>; count: number }
  | { kind: "drive-parameter"; mechanism: string; key: string; control?: string; dial?: Channel }
  | { kind: "drop-difference"; repeat: string; copy: number; of: string }
  | { kind: "extend-chain"; mechanism: string; last: string }
  | { kind: "fill-weights"; part: string; joint: string; brush: { stroke: string; reach: number; strength: number; value?: number; through?: boolean }; vertices?: Array<number>; locked?: Array<string> }
  | { kind: "fit-model"; parts?: Array<string>; scale: number; up: string; faces?: string; turn?: number; move: number[]; ground?: boolean }
  | { kind: "flip-faces"; parts: Array<string>; faces?: Array<number> }
  | { kind: "give"; mechanism: string; to?: string; clip: string; frame: number }
  | { kind: "group-by-mechanism" }
  | { kind: "hand-up-weights"; joints: Array<string> }
  | { kind: "hang-controls"; controls: Array<string>; space: string }
  | { kind: "insert-joint"; before: string; position?: number[]; name?: string }
  | { kind: "key-pose"; clip: string; frame: number; ease: string; poses: Array<{ control: string; values: Record<Channel, number> }> }
  | { kind: "label"; ids: Array<string>; pattern: string }
  | { kind: "lay-chain"; positions: Array<number[]>; pattern: string; parent?: string; count?: number; mirrored?: boolean }
  | { kind: "lay-pattern"; mechanism: string; of?: Array<string>; pattern: string }
  | { kind: "limit-here"; controls: Array<string>; values: Record<Channel, number> }
  | { kind: "limit-weights"; parts: Array<string>; most: number }
  | { kind: "load-weights"; part: string; table: string }
  | { kind: "make-home"; homes: Array<{ control: string; values: number[] }>; built?: boolean }
  | { kind: "merge-parts"; parts: Array<string>; name: string }
  | { kind: "mirror-morph"; part: string; morph: string; name?: string }
  | { kind: "mirror-response"; id: string; all?: boolean }
  | { kind: "mirror-weights"; part: string; from: string }
  | { kind: "mix-bindings"; part: string; share: number }
  | { kind: "move-driver"; id: string; place: number }
  | { kind: "move-joint"; joint: string; position: number[]; below: boolean; alone?: boolean }
  | { kind: "move-keys"; clip: string; keys: Array<{ control: string; channel: Channel; frame: number }>; by: number }
  | { kind: "name-joints"; joints: Array<string>; pattern: string }
  | { kind: "offer-spaces"; controls: Array<string>; spaces: Array<string> }
  | { kind: "on-copy"; edit: Change }
  | { kind: "order-controls"; controls: Array<string>; order: string }
  | { kind: "orient-joints"; joints: Array<string>; aim: boolean; second: string; direction: number[]; roll: number; order?: string }
  | { kind: "paint-dual"; part: string; brush: { stroke: string; reach: number; strength: number; value?: number; through?: boolean }; dabs: Array<{ face: number; shares: number[] }>; presses?: Array<number> }
  | { kind: "paint-weights"; part: string; joint: string; brush: { stroke: string; reach: number; strength: number; value?: number; through?: boolean }; dabs: Array<{ face: number; shares: number[] }>; locked?: Array<string>; presses?: Array<number>; mirrored?: boolean }
  | { kind: "pin-end"; mechanism: string; end: string; to?: string }
  | { kind: "place-joints"; places: Array<{ joint: string; position: number[] }> }
  | { kind: "place-parts"; parts: Array<string>; move: number[]; turn: number[]; scale: number; onto?: string; at?: number[] }
  | { kind: "prune-weights"; parts: Array<string>; least: number }
  | { kind: "remove-dial"; control: string; name: Channel }
  | { kind: "remove-driver"; id: string }
  | { kind: "remove-groups"; groups: Array<string> }
  | { kind: "remove-measure"; id: string }
  | { kind: "remove-mechanism"; mechanism: string }
  | { kind: "remove-morph"; part: string; morph: string }
  | { kind: "remove-repeat"; repeat: string }
  | { kind: "rename"; id: string; name: string }
  | { kind: "rename-many"; ids: Array<string>; search: string; replace: string }
  | { kind: "rename-morph"; part: string; morph: string; name: string }
  | { kind: "reparent"; joints: Array<string>; parent: string; connected?: boolean }
  | { kind: "reshape-morph"; part: string; morph: string; vertices: Array<number>; by: Array<number[]> }
  | { kind: "reverse-chain"; joints: Array<string> }
  | { kind: "set-ground-under" }
  | { kind: "set-keys"; clip: string; keys: Array<{ control: string; channel: Channel; frame: number; value: number; ease: string }> }
  | { kind: "set-parameters"; mechanism: string; values: Set; time: number; clip?: string }
  | { kind: "set-pivot"; controls: Array<string>; place?: number[] }
  | { kind: "shape-controls"; controls: Array<string>; shape?: string; size?: number; along?: number; move?: number[]; turn?: number[] }
  | { kind: "split-morph"; part: string; morph: string; blend: number }
  | { kind: "split-off"; joint: string }
  | { kind: "split-part"; part: string; faces: Array<number>; name: string }
  | { kind: "split-pieces"; part: string }
  | { kind: "switch-mechanism"; mechanism: string; on: boolean }
  | { kind: "take-point"; id: string; at: number; answer: number; drop?: boolean }
  | { kind: "take-pose"; by: Address; at: number; hands: Array<{ drives: Address; value: number }> }
  | { kind: "trace-tube"; part: string; faces?: Array<number>; count: number; pattern: string; parent?: string; reverse?: boolean }
  | { kind: "turn-faces-out"; parts: Array<string> }
  | { kind: "unbind"; parts: Array<string> }
  | { kind: "write-driver"; id?: string; all?: boolean; driver?: string; drives?: Array<Address>; like?: string; text: string }

// Made from the server's models by `make assets`; not to be changed by hand.

/**
 * @maxItems 2000
 */
export type Edits = Edit[];
export type Token = string | null;
export type OnlyNew = boolean;
export type Start = number;
export type Stop = number;
export type Frames = string | null;
export type Chosen = string | null;
/**
 * @maxItems 400
 */
export type Result = string[];
/**
 * @maxItems 400
 */
export type Source = string[];
/**
 * @maxItems 400
 */
export type Awake = string[];
/**
 * @maxItems 400
 */
export type Turning = string[];
/**
 * @maxItems 400
 */
export type Each = string[];
export type Ghost = string | null;
export type Path = string | null;
export type Spread = "fan" | "map";
export type Dots = string | null;
export type Flight = string | null;
export type Plan = boolean;
export type Exposure = number | null;
export type Moments = number | null;

/**
 * What a page wants to see.
 *
 * `edits` are tried first and not kept. The `frames` first:end (the end not included; or start … before stop) make the
 * display list; curves run over the whole scene. `token` names the last answer, whose channels need not be sent again;
 * with `only_new`, of nodes on the stage that are what they were in it nothing is sent. `chosen` is the parameter
 * whose chain is open, `ghost` a layer to be shown without its chains, `path` one whose pivot's way is wanted.
 * `copies` tells by array which copy's curves are shown (the first, unless told), `spread` how those of the others are
 * wanted for the chosen parameter, and `dots` names a value that is wanted for all copies at the frames of the display
 * list. `flight` names an emitter: the way of one spark is wanted. `plan`: where what lies in depth stands, from
 * above. `exposure` is a frame that is wanted as the shutter of a scene with motion blur sees it; `moments` asks for
 * all frames so, roughly, at so many moments each.
 */
export interface Question {
  edits?: Edits;
  token?: Token;
  only_new?: OnlyNew;
  start?: Start;
  stop?: Stop;
  frames?: Frames;
  chosen?: Chosen;
  curves?: Curves;
  ghost?: Ghost;
  path?: Path;
  copies?: Copies;
  spread?: Spread;
  dots?: Dots;
  flight?: Flight;
  plan?: Plan;
  exposure?: Exposure;
  moments?: Moments;
}
export interface Edit {
  kind:
    | "add clip"
    | "add column"
    | "add drawing"
    | "add filter"
    | "add font"
    | "add gauge"
    | "add layer"
    | "add lever"
    | "add modifier"
    | "add palette"
    | "add picture"
    | "add row"
    | "add scene"
    | "add table"
    | "align layers"
    | "apply recipe"
    | "arrange keys"
    | "arrange layer"
    | "bake"
    | "batch"
    | "blend snapshots"
    | "bypass"
    | "bypass filter"
    | "change clip"
    | "change column"
    | "change gauge"
    | "change layer"
    | "change lever"
    | "change order"
    | "change palette"
    | "change picture"
    | "change scene"
    | "change stops"
    | "choose font"
    | "clear chain"
    | "clear keys"
    | "close keys"
    | "copy modifier"
    | "describe project"
    | "draw curve"
    | "duplicate layers"
    | "duplicate scene"
    | "ease keys"
    | "fill pictures"
    | "follow column"
    | "follow point"
    | "group layers"
    | "into letters"
    | "keep curve"
    | "later each"
    | "let go of column"
    | "link to"
    | "make blend"
    | "make lever"
    | "move filter"
    | "move key"
    | "move keys"
    | "move layers"
    | "move lever"
    | "move modifier"
    | "move pivot"
    | "on each"
    | "paste chain"
    | "paste keys"
    | "recall snapshot"
    | "remove column"
    | "remove curve"
    | "remove filter"
    | "remove font"
    | "remove gauge"
    | "remove key"
    | "remove keys"
    | "remove layers"
    | "remove lever"
    | "remove modifier"
    | "remove palette"
    | "remove rows"
    | "remove scene"
    | "remove snapshot"
    | "remove table"
    | "rename project"
    | "rename snapshot"
    | "rename table"
    | "repeat layers"
    | "replace table"
    | "reset value"
    | "set arrangement"
    | "set cells"
    | "set ease"
    | "set edge"
    | "set fill"
    | "set gauge picture"
    | "set key"
    | "set line"
    | "set matte"
    | "set value"
    | "set windows"
    | "show row"
    | "spread layers"
    | "store snapshot"
    | "swing out of step"
    | "take apart"
    | "take keys"
    | "tie to gauge"
    | "unlink"
    | "write formula";
  [k: string]: unknown;
}
/**
 * Parameters by id, and which of their curves over the whole scene are wanted.
 *
 * `result`: what the chain gives. `source`: what the keys or the resting value give. `awake`: what the chain would
 * give if nothing in it were bypassed. `turning`: how many turns a minute an angle makes. `each`: what it gives for
 * the copies of its array, up to 120 of them evenly.
 */
export interface Curves {
  result?: Result;
  source?: Source;
  awake?: Awake;
  turning?: Turning;
  each?: Each;
}
export interface Copies {
  [k: string]: number;
}

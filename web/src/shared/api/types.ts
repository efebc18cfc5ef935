/** Short names for the generated types. */
import type { components } from "./schema";

type Schemas = components["schemas"];

export type PlanView = Schemas["PlanView"];
export type PreviewView = Schemas["PreviewView"];
export type BuildSummary = Schemas["BuildSummary"];
export type Change = Schemas["Change"];
export type Finding = Schemas["Finding"];
export type Fix = Schemas["ToldFix"];
export type FixesOf = Schemas["FixesOf"];
export type MoveTried = Schemas["MoveTried"];
export type Part = Schemas["Part"];
export type Returns = PlanView["analysis"]["returns"];
export type SignalAnswer = Returns["signals"][number];
export type NoiseReview = Schemas["NoiseReview"];
export type VideoNoise = Schemas["VideoNoise"];
export type LineStandard = Schemas["LineStandard"];
export type NoisePath = Schemas["NoisePath"];
export type FilterAnswer = Schemas["FilterAnswer"];
export type FilterTrial = Schemas["FilterTrial"];
export type TrialsAnswer = Schemas["Trials"];
export type Filter = NonNullable<PlanDocument["filters"]>[number];
export type Hookup = Schemas["Hookup"];
export type SchoolTable = Schemas["SchoolTable"];
export type Signal = NonNullable<PlanDocument["signals"]>[number];
export type Working = Schemas["Working"];
export type HistoryEntry = Schemas["HistoryEntry"];
export type Spread = Schemas["Spread"];
export type DemoView = Schemas["DemoView"];

export type Analysis = PlanView["analysis"];
export type Budget = Analysis["budget"];
export type ConditionAnswer = Budget["conditions"][number];
export type RailAnswer = Budget["rails"][number];
export type RailState = RailAnswer["states"][string];
export type Consumer = RailState["consumers"][number];
export type SupplyAnswer = Budget["supplies"][number];
export type SupplyState = SupplyAnswer["states"][string];
export type DeviceAnswer = Budget["devices"][number];
export type DeviceState = DeviceAnswer["states"][string];
export type Windows = Analysis["windows"];

export type PlanDocument = PlanView["plan"];
export type Device = NonNullable<PlanDocument["devices"]>[number];
export type Supply = NonNullable<PlanDocument["supplies"]>[number];
export type Edit = Schemas["EditBody"]["edits"][number];
/** A part to put into a plan: on a rail, or into one beside what feeds it. */
export type Placing = Omit<Schemas["PlaceBody"], "revision">;
export type Severity = Finding["severity"];
export type Provenance = Schemas["Draw"]["provenance"];
export type DrawState = Schemas["SetDraw"]["state"];
export type Quantity = Schemas["WorkingQuery"]["quantity"];

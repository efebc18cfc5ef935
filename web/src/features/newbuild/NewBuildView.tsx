/** A new build in three short steps: pack and shape, boards, devices, each from the shelf; beside them the craft so far. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Alert, App as AntApp, Button, Input, Steps } from "antd";
import { Link, useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import { Picker } from "./Picker";
import { ShapePicker } from "./ShapePicker";
import { SHAPES, type Shape } from "./shapes";
import { useKept } from "./useKept";
import { SketchPanel } from "./SketchPanel";
import "./newbuild.css";

/** What is chosen so far. */
interface Choices {
  step: number;
  name: string;
  topology: Shape["topology"];
  /** Two shapes may be wired alike. */
  shape?: Shape["key"];
  pack: string | null;
  boards: string[];
  devices: string[];
}

const NOTHING_YET: Choices = { step: 0, name: "", topology: SHAPES[0].topology, pack: null, boards: [], devices: [] };
/** Packs are not judged by a pack. */
const NO_BUILD = { topology: SHAPES[0].topology, pack: "", boards: [], devices: [] };
const STEPS = ["Pack and shape", "Boards", "Devices"] as const;

export function NewBuildView() {
  const [kept, keep, forget] = useKept<Choices>("yard-new-build", NOTHING_YET);
  const { step, name, pack, boards, devices } = kept;
  const shape = SHAPES.find((one) => one.key === kept.shape) ?? SHAPES.find((one) => one.topology === kept.topology) ?? SHAPES[0];
  const setStep = (next: number) => keep({ step: next });
  const setBoards = (next: string[]) => keep({ boards: next });
  const setDevices = (next: string[]) => keep({ devices: next });
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { message } = AntApp.useApp();
  const chosen = { topology: shape.topology, pack: pack ?? "", boards, devices };
  const make = useMutation({
    mutationFn: (then: "rails" | "layouts") =>
      call(client.POST("/api/builds/start", { body: { name: name.trim() || "My build", ...chosen, wire: then === "rails" } })).then((build) => ({
        build,
        then,
      })),
    onSuccess: ({ build, then }) => {
      forget();
      void queries.invalidateQueries({ queryKey: ["builds"] });
      if (build.wired) void message.info(`Wired as its lightest layout: ${build.wired}. Undo takes that back.`, 12);
      const first = build.plans[0];
      if (first) void navigate(`/plans/${first.id}/${then}${then === "layouts" ? "?now=1" : ""}`);
    },
  });
  const count = (list: string[], key: string) => list.filter((one) => one === key).length;
  const add = (list: string[], set: (next: string[]) => void) => (key: string) => set([...list, key]);
  const drop = (list: string[], set: (next: string[]) => void) => (key: string) => {
    const at = list.lastIndexOf(key);
    set(list.filter((_, index) => index !== at));
  };
  return (
    <main className="newbuild">
      <div className="newbuild-choice">
        <p>
          <Link to="/">All builds</Link>
        </p>
        <h1>New build</h1>
        {kept !== NOTHING_YET && (
          <Button size="small" onClick={forget}>
            Start over
          </Button>
        )}
        <label>
          Name <Input value={name} maxLength={80} placeholder="My build" onChange={(event) => keep({ name: event.target.value })} style={{ maxWidth: 320 }} />
        </label>
        <Steps size="small" current={step} onChange={(next) => (pack || next === 0) && setStep(next)} items={STEPS.map((title) => ({ title }))} />
        {step === 0 && (
          <>
            <ShapePicker chosen={shape} choose={(next) => keep({ topology: next.topology, shape: next.key })} />
            <h2>The pack</h2>
            <Picker
              kinds={["pack"]}
              chosen={NO_BUILD}
              hint="The flight battery. Its own numbers can be changed later."
              count={(key) => (pack === key ? 1 : 0)}
              add={(key) => keep({ pack: key })}
              drop={() => keep({ pack: null })}
            />
          </>
        )}
        {step === 1 && (
          <Picker
            kinds={["board", "bec"]}
            chosen={{ ...chosen, boards: [], devices: [] }}
            hint={shape.boards}
            count={(key) => count(boards, key)}
            add={add(boards, setBoards)}
            drop={drop(boards, setBoards)}
          />
        )}
        {step === 2 && (
          <Picker
            kinds={["device"]}
            chosen={{ ...chosen, devices: [] }}
            hint="Each device goes on the rail whose volts fit it best, motors one to each single ESC. Where that would not stand, the lightest wiring that does is taken, with a part added if it needs one; Undo takes that back."
            count={(key) => count(devices, key)}
            add={add(devices, setDevices)}
            drop={drop(devices, setDevices)}
          />
        )}
        {make.error && <Alert type="error" title={make.error.message} />}
        <div className="newbuild-steps">
          {step > 0 && <Button onClick={() => setStep(step - 1)}>Back</Button>}
          {step < 2 ? (
            <Button type="primary" disabled={!pack} onClick={() => setStep(step + 1)}>
              Next: {STEPS[step + 1]}
            </Button>
          ) : (
            <>
              <Button type="primary" loading={make.isPending} onClick={() => make.mutate("rails")}>
                Work it out
              </Button>
              <Button disabled={make.isPending} onClick={() => make.mutate("layouts")}>
                Propose the wiring
              </Button>
            </>
          )}
        </div>
      </div>
      <SketchPanel chosen={chosen} />
    </main>
  );
}

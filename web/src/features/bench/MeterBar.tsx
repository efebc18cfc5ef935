/** Instruments at hand: the builder's own by address, or a stand-in that measures this plan. */
import { Alert, Button, Checkbox, Input } from "antd";
import { useState } from "react";
import type { Rack } from "./useBench";
import type { useRack } from "./useMeter";

interface Props {
  bar: ReturnType<typeof useRack>;
  training: number | null;
  handsFree: boolean;
  setHandsFree: (on: boolean) => void;
  voice: boolean;
  setVoice: (on: boolean) => void;
  open: boolean;
  setOpen: (open: boolean) => void;
}

const ADDRESS = "yard-bench-address";

export function MeterBar({ bar, training, handsFree, setHandsFree, voice, setVoice, open, setOpen }: Props) {
  const { rack } = bar;
  const there = bar.here(training) ? rack?.meter : null;
  return (
    <div className="meter-bar">
      <Button size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
        {there ? "Meter ●" : "Meter…"}
      </Button>
      {rack?.meter && !there && <span className="muted">a stand-in has another build on its bench</span>}
      {there && (
        <>
          <span className="muted">{there.stands_in ? "stand-in" : there.name}</span>
          <Checkbox checked={handsFree} onChange={(event) => setHandsFree(event.target.checked)}>
            steady readings enter themselves
          </Checkbox>
        </>
      )}
      <Checkbox checked={voice} onChange={(event) => setVoice(event.target.checked)}>
        beep and voice
      </Checkbox>
      {bar.problem && <Alert type="error" title={bar.problem} />}
      {open && (
        <div className="meter-sheet">
          <Instrument role="meter" rack={rack} bar={bar} />
          <Instrument role="supply" rack={rack} bar={bar} />
          <p>
            <Button size="small" onClick={() => void bar.standIn(training)}>
              Practise with a stand-in
            </Button>{" "}
            <span className="muted">
              {training ? "It measures this plan with what is hidden in it." : "It measures this plan, sound, as a meter and a supply would."}
            </span>
          </p>
        </div>
      )}
    </div>
  );
}

function Instrument({ role, rack, bar }: { role: "meter" | "supply"; rack: Rack | undefined; bar: Props["bar"] }) {
  const [address, setAddress] = useState(() => window.localStorage.getItem(`${ADDRESS}-${role}`) ?? "");
  const there = rack?.[role];
  // Another machine has to be allowed first; whoever set up the login may do so here.
  const host = /^(?:TCPIP\d*::)?([A-Za-z0-9.-]+)(?:::|:)/i.exec(address.trim())?.[1] ?? "";
  const connect = () => {
    window.localStorage.setItem(`${ADDRESS}-${role}`, address);
    void bar.connect(role, address);
  };
  return (
    <p className="instrument">
      <strong>{role === "meter" ? "Meter" : "Supply with a current limit"}</strong>{" "}
      {there ? (
        <>
          {there.name} at {there.address}{" "}
          <Button size="small" onClick={() => void bar.disconnect(role)}>
            Let go
          </Button>
        </>
      ) : (
        <>
          <Input
            size="small"
            aria-label={`address of the ${role}`}
            placeholder="host:5025, /dev/ttyUSB0, USB0::…"
            value={address}
            onChange={(event) => setAddress(event.target.value)}
            onPressEnter={connect}
          />
          <Button size="small" onClick={connect} disabled={!address.trim()}>
            Connect
          </Button>
          {rack?.may_allow && host && bar.problem?.includes("nobody has allowed it") && (
            <Button size="small" onClick={() => void bar.allow(host).then(connect)}>
              Allow {host}
            </Button>
          )}
        </>
      )}
    </p>
  );
}

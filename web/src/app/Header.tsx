/** Build and plan switchers, undo and redo, history, light and dark, help. */
import type { PlanView } from "@/shared/api/types";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App as AntApp, Button, Dropdown, Input, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { useMode } from "./mode";

interface Props {
  returnTo: (revision: number) => Promise<void>;
  openHelp: () => void;
  openSeek: () => void;
}

/** Menus belong to the head they hang from, so that they are met in its landmark. */
const inHead = (trigger: HTMLElement) => trigger.closest<HTMLElement>(".head") ?? document.body;

export function Header({ returnTo, openHelp, openSeek }: Props) {
  const { view, busy } = usePlanState();
  const { standing: condition } = useSelection();
  const { undo, redo, edit } = usePlanActions();
  const { mode, toggle } = useMode();
  const navigate = useNavigate();
  const builds = useQuery({ queryKey: ["builds"], queryFn: () => call(client.GET("/api/builds")) });
  const history = useQuery({
    queryKey: ["history", view.id],
    queryFn: () => call(client.GET("/api/plans/{plan_id}/history", { params: { path: { plan_id: view.id } } })),
  });
  const { message } = AntApp.useApp();
  const queries = useQueryClient();
  const [naming, setNaming] = useState<string | null>(null);
  const path = { plan_id: view.id };
  const failed = (caught: unknown) => void message.error(caught instanceof Error ? caught.message : String(caught));
  const copy = async () => {
    try {
      const made = await call(client.POST("/api/plans/{plan_id}/copy", { params: { path }, body: { name: `${view.plan.name} copy`.slice(0, 80) } }));
      void queries.invalidateQueries();
      open(made.id);
    } catch (caught) {
      failed(caught);
    }
  };
  const restore = async () => {
    await call(client.POST("/api/plans/{plan_id}/restore", { params: { path } })).catch(failed);
    void queries.invalidateQueries();
    open(view.id);
  };
  const remove = async () => {
    try {
      await call(client.DELETE("/api/plans/{plan_id}", { params: { path } }));
      open(view.build.plans.find((p) => p.id !== view.id)?.id);
      void queries.invalidateQueries({ queryKey: ["builds"] });
      void message.open({
        type: "info",
        duration: 12,
        content: (
          <>
            {view.plan.name} is deleted.{" "}
            <Button size="small" onClick={() => void restore()}>
              Bring it back
            </Button>
          </>
        ),
      });
    } catch (caught) {
      failed(caught);
    }
  };
  const rename = async () => {
    const name = naming?.trim();
    if (name) await edit([{ op: "set", element: "plan", field: "name", value: name }]).then(() => setNaming(null), failed);
  };
  const numberOf = (revision: number | null) => history.data?.find((h) => h.revision === revision)?.number ?? "the start";
  const open = (id: number | undefined) => id && void navigate(`/plans/${id}/rails`);
  const planItems = [
    ...view.build.plans.map((p) => ({ key: String(p.id), label: p.name, onClick: () => open(p.id) })),
    { type: "divider" as const },
    { key: "copy", label: "Copy this plan", onClick: () => void copy() },
    { key: "name", label: "Rename…", onClick: () => setNaming(view.plan.name) },
    { key: "delete", label: "Delete this plan", disabled: view.build.plans.length < 2, onClick: () => void remove() },
  ];
  return (
    <header className="head">
      <Link className="brand" to="/">
        YARD METER
      </Link>
      <Dropdown
        trigger={["click"]}
        getPopupContainer={inHead}
        menu={{ items: (builds.data ?? []).map((b) => ({ key: String(b.id), label: b.name, onClick: () => open(b.plans[0]?.id) })) }}
      >
        <Button aria-label={`Build ${view.build.name}, choose another`}>{view.build.name} ▾</Button>
      </Dropdown>
      <Dropdown trigger={["click"]} getPopupContainer={inHead} menu={{ items: planItems }}>
        <Button aria-label={`Plan ${view.plan.name}, choose another`}>{view.plan.name} ▾</Button>
      </Dropdown>
      <Button onClick={undo} disabled={!view.undo} title={view.undo ? `Undo: ${view.undo} (Ctrl+Z)` : "Nothing to undo"} aria-label="Undo">
        ↶
      </Button>
      <Button onClick={redo} disabled={!view.redo} title={view.redo ? `Redo: ${view.redo} (Ctrl+Shift+Z)` : "Nothing to redo"} aria-label="Redo">
        ↷
      </Button>
      <Dropdown
        trigger={["click"]}
        getPopupContainer={inHead}
        menu={{
          items: [...(history.data ?? [])]
            .reverse()
            .map((h) => ({
              key: String(h.revision),
              label: `${h.number}. ${h.summary}${h.current ? "  (shown)" : h.undone ? "  (undone)" : h.aside ? `  (beside the line, from ${numberOf(h.parent)})` : ""}`,
              disabled: h.current,
              onClick: () => void returnTo(h.revision),
            })),
          style: { maxHeight: 420, overflow: "auto" },
        }}
      >
        <Button>History</Button>
      </Dropdown>
      <span className="head-busy" role="status">
        {busy ? "Working it out…" : ""}
      </span>
      <span className="head-space" />
      <Button onClick={openSeek} className="head-seek">
        Search or do… <kbd>/</kbd>
      </Button>
      <Dropdown
        trigger={["click"]}
        getPopupContainer={inHead}
        menu={{
          items: [
            { key: "json", label: <a href={`/api/plans/${view.id}/export`}>Plan as JSON</a> },
            { key: "csv", label: <a href={`/api/plans/${view.id}/budget.csv`}>Budget as CSV</a> },
            {
              key: "svg",
              label: (
                <a href={`/api/plans/${view.id}/rails.svg?condition=${condition === WORST ? (view.analysis.budget.conditions[0]?.id ?? "") : condition}`}>
                  Rails as SVG
                </a>
              ),
            },
            { key: "page", label: <a href={`/api/plans/${view.id}/page.html`}>All of it as one page</a> },
            { key: "card", label: <Link to={`/plans/${view.id}/card`}>Build card to print</Link> },
            ...netlists(view),
          ],
        }}
      >
        <Button>Take away</Button>
      </Dropdown>
      <Button onClick={toggle} aria-label={mode === "light" ? "Dark theme" : "Light theme"} title={mode === "light" ? "Dark theme" : "Light theme"}>
        ◐
      </Button>
      <Button onClick={openHelp} aria-label="Keys" title="Keys (?)">
        ?
      </Button>
      <Modal title="Name of this plan" open={naming !== null} onCancel={() => setNaming(null)} onOk={() => void rename()} okText="Rename">
        <Input
          aria-label="Name of this plan"
          value={naming ?? ""}
          maxLength={80}
          onChange={(event) => setNaming(event.target.value)}
          onPressEnter={() => void rename()}
        />
      </Modal>
    </header>
  );
}

function netlists(view: PlanView) {
  // Of the plan's own conditions: an instant of a run has a netlist of another kind.
  return (view.plan.conditions ?? []).map((c) => ({
    key: c.id,
    label: <a href={`/api/plans/${view.id}/netlist?condition=${c.id}`}>SPICE netlist, {c.name}</a>,
  }));
}

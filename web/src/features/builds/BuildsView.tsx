/** All builds of this data file; an empty file starts from a demo build. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Modal, Spin } from "antd";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { ApiError, call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { PlanCard } from "./PlanCard";
import "./builds.css";

type DemoKey = components["schemas"]["DemoView"]["key"];

export function BuildsView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const builds = useQuery({ queryKey: ["builds"], queryFn: () => call(client.GET("/api/builds")) });
  const demos = useQuery({ queryKey: ["demos"], queryFn: () => call(client.GET("/api/builds/demos")) });
  const add = useMutation({
    mutationFn: (demo: DemoKey) => call(client.POST("/api/builds", { body: { demo } })),
    onSuccess: (build) => {
      void queries.invalidateQueries({ queryKey: ["builds"] });
      const first = build.plans[0];
      if (first) void navigate(`/plans/${first.id}/rails`);
    },
  });
  const backup = useMutation({ mutationFn: () => call(client.POST("/api/backup")) });
  const file = useRef<HTMLInputElement>(null);
  const [problems, setProblems] = useState<string[]>([]);
  const [refused, setRefused] = useState("");
  const read = async (picked: File | undefined) => {
    if (!picked) return;
    try {
      const build = await call(client.POST("/api/builds/read", { body: { text: await picked.text() } }));
      void queries.invalidateQueries({ queryKey: ["builds"] });
      const first = build.plans[0];
      if (first) void navigate(`/plans/${first.id}/rails`);
    } catch (caught) {
      const body = caught instanceof ApiError ? caught.body : null;
      setRefused(`${picked.name} cannot be read.`);
      const lines = (body?.problems ?? []).map((p) => `${p.where}: ${p.what} ${p.remedy}`);
      setProblems(lines.length > 0 ? lines : [body ? [body.where, body.what, body.remedy].filter(Boolean).join(" · ") : String(caught)]);
    }
    if (file.current) file.current.value = "";
  };
  const [naming, setNaming] = useState<{ id: number; name: string; version: number } | null>(null);
  const [gone, setGone] = useState<number | null>(null);
  const again = () => void queries.invalidateQueries({ queryKey: ["builds"] });
  const say = (caught: unknown) => {
    setRefused("That did not work.");
    setProblems([caught instanceof Error ? caught.message : String(caught)]);
  };
  const rename = async () => {
    if (!naming?.name.trim()) return;
    await call(
      client.PATCH("/api/builds/{build_id}", { params: { path: { build_id: naming.id } }, body: { name: naming.name.trim(), version: naming.version } }),
    ).then(() => setNaming(null), say);
    again();
  };
  const remove = async (id: number) => {
    await call(client.DELETE("/api/builds/{build_id}", { params: { path: { build_id: id } } })).then(() => setGone(id), say);
    again();
  };
  const restore = async () => {
    if (gone !== null) await call(client.POST("/api/builds/{build_id}/restore", { params: { path: { build_id: gone } } })).then(() => setGone(null), say);
    again();
  };
  const here = new Set((builds.data ?? []).map((build) => build.demo));
  const offered = (demos.data ?? []).filter((demo) => !here.has(demo.key));
  const failed = backup.error ?? builds.error ?? add.error;
  return (
    <main className="builds">
      <h1>Yard Meter</h1>
      <p>Every rail summed, every pin in every condition, every number with its working.</p>
      {failed && <Alert type="error" title={failed.message} />}
      {builds.isPending && <Spin />}
      {builds.data?.length === 0 && <p>This data file is empty. Start with a pack, from a demo build, or from a plan file.</p>}
      <div className="builds-tools">
        <Button type="primary" onClick={() => void navigate("/new")}>
          New build
        </Button>
        <Button onClick={() => file.current?.click()}>Read a plan file…</Button>
        <input ref={file} type="file" accept=".json,application/json" hidden aria-label="Plan file" onChange={(event) => void read(event.target.files?.[0])} />
        <Button loading={backup.isPending} onClick={() => backup.mutate()}>
          Back up the data file
        </Button>
      </div>
      {backup.data && <Alert type="success" title={`Copied to ${backup.data.file}`} />}
      {problems.length > 0 && (
        <Alert
          type="error"
          title={`${refused} Nothing was stored.`}
          description={
            <ul>
              {problems.slice(0, 10).map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          }
          closable={{ onClose: () => setProblems([]) }}
        />
      )}
      <ul>
        {(builds.data ?? []).map((build) => (
          <li key={build.id}>
            <h2>
              {build.name}{" "}
              <Button size="small" onClick={() => setNaming({ id: build.id, name: build.name, version: build.version })}>
                Rename
              </Button>{" "}
              <Button size="small" onClick={() => void remove(build.id)}>
                Delete
              </Button>
            </h2>
            <p>{build.note}</p>
            <div className="plan-cards">
              {build.plans.map((plan) => (
                <PlanCard
                  key={plan.id}
                  id={plan.id}
                  name={plan.name}
                  also={
                    <>
                      {build.plans.length > 1 && <Link to={`/plans/${plan.id}/compare`}>Compare</Link>}
                      <Link to={`/plans/${plan.id}/card`}>Build card</Link>
                      <Link to={`/plans/${plan.id}/wrong`}>Something is wrong…</Link>
                      <a href={`/api/plans/${plan.id}/export`} download>
                        Take away
                      </a>
                    </>
                  }
                />
              ))}
            </div>
          </li>
        ))}
      </ul>
      {gone !== null && (
        <p role="status">
          The build is deleted.{" "}
          <Button size="small" onClick={() => void restore()}>
            Bring it back
          </Button>
        </p>
      )}
      <Modal title="Name of the build" open={naming !== null} onCancel={() => setNaming(null)} onOk={() => void rename()} okText="Rename">
        <Input
          aria-label="Name of the build"
          value={naming?.name ?? ""}
          maxLength={80}
          onChange={(event) => naming && setNaming({ ...naming, name: event.target.value })}
          onPressEnter={() => void rename()}
        />
      </Modal>
      {offered.length > 0 && <h2>Demo builds</h2>}
      <ul>
        {offered.map((demo) => (
          <li key={demo.key}>
            <strong>{demo.name}</strong>: {demo.note}{" "}
            <Button size="small" loading={add.isPending} onClick={() => add.mutate(demo.key)}>
              Copy into this file
            </Button>
          </li>
        ))}
      </ul>
      <p className="muted">
        Numbers are estimates from the data given: measure before you trust. Props off for every powered bench step; pack unplugged before any soldering.
      </p>
    </main>
  );
}

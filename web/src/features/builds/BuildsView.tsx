/** All builds of this data file; an empty file starts from a demo build. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Spin } from "antd";
import { Link, useNavigate } from "react-router";
import { call, client } from "@/shared/api/client";
import "./builds.css";

export function BuildsView() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const builds = useQuery({ queryKey: ["builds"], queryFn: () => call(client.GET("/api/builds")) });
  const demos = useQuery({ queryKey: ["demos"], queryFn: () => call(client.GET("/api/builds/demos")) });
  const add = useMutation({
    mutationFn: (demo: string) => call(client.POST("/api/builds", { body: { demo } })),
    onSuccess: (build) => {
      void queries.invalidateQueries({ queryKey: ["builds"] });
      const first = build.plans[0];
      if (first) void navigate(`/plans/${first.id}/rails`);
    },
  });
  const failed = builds.error ?? add.error;
  return (
    <main className="builds">
      <h1>Yard Meter</h1>
      <p>Every rail summed, every pin in every condition, every number with its working.</p>
      {failed && <Alert type="error" title={failed.message} />}
      {builds.isPending && <Spin />}
      {builds.data?.length === 0 && <p>This data file is empty. Start from a demo build and change it into yours.</p>}
      <ul>
        {(builds.data ?? []).map((build) => (
          <li key={build.id}>
            <h2>{build.name}</h2>
            <p>{build.note}</p>
            <p>
              {build.plans.map((plan) => (
                <Link key={plan.id} to={`/plans/${plan.id}/rails`}>
                  {plan.name}
                </Link>
              ))}
            </p>
          </li>
        ))}
      </ul>
      <h2>Demo builds</h2>
      <ul>
        {(demos.data ?? []).map((demo) => (
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

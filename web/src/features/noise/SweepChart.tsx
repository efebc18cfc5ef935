/** Ripple at a device's pins per ampere of motor current over frequency, with the filters and without. */
import { useEffect, useRef } from "react";
import type { NoisePath } from "@/shared/api/types";
import { si } from "@/shared/ui/format";

/** What the curves show: where each is highest, and what is left at the line that is marked. */
function said(path: NoisePath): string {
  const { hertz, with_ohm, without_ohm } = path.sweep;
  const peak = (ohms: number[]) => {
    const k = ohms.reduce((best, one, index) => (one > (ohms[best] ?? 0) ? index : best), 0);
    return `${si(ohms[k] ?? 0, "V")} per ampere at ${si(hertz[k] ?? 0, "Hz")}`;
  };
  const near = hertz.reduce((best, one, index) => (Math.abs(Math.log(one / path.hz)) < Math.abs(Math.log((hertz[best] ?? 1) / path.hz)) ? index : best), 0);
  const there =
    path.hz > 0
      ? ` ${path.words}, ${si(path.hz, "Hz")}: ${si(with_ohm[near] ?? 0, "V")} per ampere as planned, ${si(without_ohm[near] ?? 0, "V")} without filters.`
      : "";
  return `Ripple at the pins over frequency. As planned at most ${peak(with_ohm)}; without filters ${peak(without_ohm)}.${there}`;
}

export default function SweepChart({ path }: { path: NoisePath }) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = box.current;
    if (!place) return;
    let chart: { dispose: () => void; resize: () => void } | null = null;
    let gone = false;
    void Promise.all([import("echarts/core"), import("echarts/charts"), import("echarts/components"), import("echarts/renderers")]).then(
      ([core, charts, components, renderers]) => {
        if (gone) return;
        core.use([
          charts.LineChart,
          components.GridComponent,
          components.TooltipComponent,
          components.LegendComponent,
          components.MarkLineComponent,
          renderers.SVGRenderer,
        ]);
        const style = getComputedStyle(document.documentElement);
        const colour = (name: string) => style.getPropertyValue(name).trim();
        const made = core.init(place, undefined, { renderer: "svg" });
        const { hertz, with_ohm, without_ohm } = path.sweep;
        const points = (ohms: number[]) => hertz.map((hz, k) => [hz, Math.max(ohms[k] ?? 0, 1e-9)]);
        const axis = {
          axisLabel: { color: colour("--muted") },
          axisLine: { lineStyle: { color: colour("--ink") } },
          splitLine: { lineStyle: { color: colour("--line") } },
        };
        made.setOption({
          animation: false,
          textStyle: { fontFamily: "inherit" },
          grid: { left: 64, right: 16, top: 48, bottom: 34 },
          legend: { top: 0, right: 0, textStyle: { color: colour("--ink") } },
          tooltip: { trigger: "axis", valueFormatter: (value: unknown) => `${si(Number(value), "Ω").replace("Ω", "V")} per A` },
          xAxis: {
            type: "log",
            min: hertz[0],
            max: hertz.at(-1),
            ...axis,
            axisLabel: { ...axis.axisLabel, showMinLabel: false, formatter: (hz: number) => si(hz, "Hz") },
          },
          yAxis: { type: "log", ...axis, axisLabel: { ...axis.axisLabel, formatter: (v: number) => si(v, "Ω").replace("Ω", "V/A") } },
          series: [
            {
              name: "without filters",
              type: "line",
              showSymbol: false,
              data: points(without_ohm),
              lineStyle: { color: colour("--ochre"), type: "dashed", width: 2 },
              itemStyle: { color: colour("--ochre") },
            },
            {
              name: "as planned",
              type: "line",
              showSymbol: false,
              data: points(with_ohm),
              lineStyle: { color: colour("--petrol"), width: 2.4 },
              itemStyle: { color: colour("--petrol") },
              ...(path.hz > 0
                ? {
                    markLine: {
                      symbol: "none",
                      lineStyle: { color: colour("--rust") },
                      label: { color: colour("--rust"), formatter: si(path.hz, "Hz") },
                      data: [{ xAxis: path.hz }],
                    },
                  }
                : {}),
            },
          ],
        });
        chart = made;
      },
    );
    const watch = new ResizeObserver(() => chart?.resize());
    watch.observe(place);
    return () => {
      gone = true;
      watch.disconnect();
      chart?.dispose();
    };
  }, [path]);
  return <div ref={box} className="sweep" role="img" aria-label={said(path)} />;
}

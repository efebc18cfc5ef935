import { describe, expect, it } from "vitest";
import { reachesNothing, unusedIn } from "./unused-styles";

describe("styles that are left out", () => {
  it.each([
    [".ant-table-row > td", true],
    [".ant-input-group .ant-picker:hover", true],
    [".ant-form-item .ant-col-12", true],
    [".ant-slide-up-enter", false],
    [".ant-btn:not(.ant-table-cell .ant-picker)", false],
    [".ant-select-list", false],
    [".ant-tabs", true],
  ])("%s", (selector, nothing) => expect(reachesNothing(selector)).toBe(nothing));

  it("are told of when something imports their component", () => {
    expect(unusedIn('import { Button, Table as Rows, type Tree } from "antd";')).toEqual(["Table", "Tree"]);
  });
});

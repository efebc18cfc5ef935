/** Rows of a small table to type into: what a board or device has several of. */
import { Button, Checkbox, Input, InputNumber, Select } from "antd";

export interface Column<T> {
  label: string;
  width: number;
  /** How the cell is typed: words, a number in `unit`, one of `options`, several of them, or yes and no. */
  kind: "words" | "number" | "one" | "several" | "flag";
  options?: { value: string; label: string }[];
  read: (row: T) => string | number | null | string[] | boolean | undefined;
  /** What the row becomes; left out, it is only shown. */
  put: (row: T, value: never) => void;
}

interface Props<T> {
  title: string;
  add: string;
  rows: T[];
  columns: Column<T>[];
  onAdd?: () => void;
  onRemove: (row: T) => void;
}

export function Rows<T>({ title, add, rows, columns, onAdd, onRemove }: Props<T>) {
  return (
    <fieldset className="rows" aria-label={title}>
      <legend>{title}</legend>
      {rows.length > 0 && (
        <table>
          <thead>
            <tr>
              {columns.map((one) => (
                <th key={one.label} scope="col">
                  {one.label}
                </th>
              ))}
              <th>
                <span className="sr-only">remove</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row, k) => (
              <tr key={k}>
                {columns.map((one) => (
                  <td key={one.label}>
                    <Cell column={one} row={row} name={`${one.label} of ${title} ${k + 1}`} />
                  </td>
                ))}
                <td>
                  <Button size="small" onClick={() => onRemove(row)} aria-label={`Remove ${title} ${k + 1}`}>
                    ×
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {onAdd && (
        <Button size="small" onClick={onAdd}>
          {add}
        </Button>
      )}
    </fieldset>
  );
}

function Cell<T>({ column, row, name }: { column: Column<T>; row: T; name: string }) {
  const value = column.read(row);
  const put = (next: unknown) => column.put(row, next as never);
  const shared = { size: "small" as const, "aria-label": name, style: { width: column.width } };
  if (column.kind === "number")
    return (
      <InputNumber
        {...shared}
        controls={false}
        decimalSeparator="."
        parser={(text) => Number((text ?? "").replace(",", "."))}
        value={value as number | null}
        onChange={put}
      />
    );
  if (column.kind === "one") return <Select {...shared} value={value as string} options={column.options} onChange={put} popupMatchSelectWidth={false} />;
  if (column.kind === "several")
    return <Select {...shared} mode="multiple" value={value as string[]} options={column.options} onChange={put} popupMatchSelectWidth={false} />;
  if (column.kind === "flag") return <Checkbox aria-label={name} checked={Boolean(value)} onChange={(event) => put(event.target.checked)} />;
  return <Input {...shared} value={value as string} onChange={(event) => put(event.target.value)} />;
}

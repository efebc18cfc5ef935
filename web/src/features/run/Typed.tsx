/** A field that is sent when it is left, and shows what came of it. */
import { Input } from "antd";
import { useState } from "react";

/** A value as typed: sent when it is left or with Enter, if it was changed. */
export function Typed(props: { label: string; value: string; hint?: string; send: (text: string) => void }) {
  return <TypedOnce key={props.value} {...props} />;
}

function TypedOnce({ label, value, hint, send }: { label: string; value: string; hint?: string; send: (text: string) => void }) {
  const [text, setText] = useState(value);
  const done = () => {
    if (text !== value) send(text);
  };
  return (
    <Input
      size="small"
      className="acts-typed"
      aria-label={label}
      value={text}
      placeholder={hint}
      onChange={(event) => setText(event.target.value)}
      onBlur={done}
      onPressEnter={(event) => event.currentTarget.blur()}
    />
  );
}

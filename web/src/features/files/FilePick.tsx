import { useId } from "react";
import classes from "./FilePick.module.css";

/** A file's text, once one is picked; picking the same file again works too. */
export function FilePick(props: {
  label: string;
  hint?: string;
  accept: string;
  onText: (text: string, name: string) => void;
}) {
  const id = useId();
  return (
    <div className={classes.pick}>
      <label htmlFor={id}>{props.label}</label>
      {props.hint && <span className={classes.hint}>{props.hint}</span>}
      <input
        id={id}
        type="file"
        accept={props.accept}
        onChange={async (event) => {
          const input = event.currentTarget;
          const file = input.files?.[0];
          if (!file) return;
          input.value = "";
          const text = await file.text();
          props.onText(text, file.name);
        }}
      />
    </div>
  );
}

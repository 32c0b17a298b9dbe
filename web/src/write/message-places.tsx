import { useState } from "react";
import type { Message } from "../api/client";
import { Add, Place } from "./place";

const fields: { field: Exclude<keyof Message, "to">; query: string; add: string; label: string }[] = [
  { field: "subject", query: "subject", add: "subject", label: "Subject" },
  { field: "cc", query: "cc", add: "copy", label: "Copy to" },
  { field: "bcc", query: "bcc", add: "hidden copy", label: "Hidden copy to" },
  { field: "body", query: "body", add: "text", label: "Text of the message" },
];

/** An e-mail address opened into its parts, decoded to be read. */
export function MessagePlaces({ message, onChange }: { message: Message; onChange: (message: Message) => void }) {
  const [added, setAdded] = useState<string[]>(["subject"]);
  const shown = fields.filter(({ field }) => message[field] !== "" || added.includes(field));
  const set = (field: keyof Message, value: string) => onChange({ ...message, [field]: value });
  return (
    <>
      mailto:
      <Place
        place="to"
        aria-label="To"
        value={message.to}
        least={12}
        onChange={(e) => set("to", e.currentTarget.value)}
      />
      {shown.map(({ field, query, label }, i) => (
        <span key={field} className="block pl-8">
          {i === 0 ? "?" : "&"}
          {query}=
          {field === "body" ? (
            <textarea
              data-place={field}
              aria-label={label}
              rows={3}
              value={message.body}
              onChange={(e) => set("body", e.currentTarget.value)}
              className="w-[80%] border-b-2 border-act bg-paper px-[0.15em] align-top font-sans text-[15px] focus:bg-act-soft"
            />
          ) : (
            <Place
              place={field}
              aria-label={label}
              value={message[field]}
              least={10}
              onChange={(e) => set(field, e.currentTarget.value)}
            />
          )}
        </span>
      ))}
      {fields
        .filter((f) => !shown.includes(f))
        .map(({ field, add }) => (
          <Add key={field} onClick={() => setAdded([...added, field])}>
            {add}
          </Add>
        ))}
    </>
  );
}

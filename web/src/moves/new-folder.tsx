import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Input, Trouble } from "../parts/controls";
import { Fault, useNameFault } from "./name-fault";

/** A path in a folder; "" is the top. */
export const join = (dir: string, name: string) => (dir ? `${dir}/${name}` : name);

/** Makes a folder. */
export function NewFolder({ parent }: { parent: string }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [name, setName] = useState<string>();
  const make = useMutation({
    mutationFn: (path: string) =>
      answer(api.POST("/folders/{folder}/new-folder", { params: { path: { folder } }, body: { path } })),
    onSuccess: () => setName(undefined),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const fault = useNameFault(`${join(parent, name?.trim() ?? "")}/`, !!name?.trim());
  if (name === undefined) return <Button onClick={() => setName("")}>New folder</Button>;
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(join(parent, name.trim()));
      }}
    >
      <Input
        autoFocus
        aria-label="Name of the new folder"
        aria-describedby="folder-fault"
        placeholder={parent ? `in ${parent}/` : "name"}
        value={name}
        spellCheck={false}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "ArrowDown" || !fault?.better) return;
          e.preventDefault();
          setName(fault.better);
        }}
        className="w-32 font-mono text-small"
      />
      <Button type="submit" disabled={make.isPending || name.trim() === ""}>
        Make
      </Button>
      <Fault id="folder-fault" fault={fault} name={name} />
      {make.error && <Trouble error={make.error} />}
    </form>
  );
}

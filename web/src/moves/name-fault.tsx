import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type NameFault } from "../api/client";
import { useFolderId } from "../api/folder";
import { Mono, Sentence } from "../parts/words";

/** What is wrong with a name while it is typed; that of a folder ends in a slash. */
export function useNameFault(path: string, wanted: boolean): NameFault | undefined {
  const folder = useFolderId();
  const { data } = useQuery({
    queryKey: ["folder", folder, "name", path],
    queryFn: () =>
      answer<NameFault>(api.GET("/folders/{folder}/name", { params: { path: { folder }, query: { path } } })),
    enabled: wanted,
    placeholderData: keepPreviousData,
  });
  return wanted ? data : undefined;
}

/** The fault, and how the better name is taken. */
export function Fault({ id, fault, name }: { id: string; fault: NameFault | undefined; name: string }) {
  if (!fault?.fault) return null;
  return (
    <span id={id} className="max-w-[60%] truncate text-small text-fragile" title={fault.fault.replaceAll("`", "")}>
      <Sentence text={fault.fault} />
      {fault.better && fault.better !== name && (
        <>
          ; ↓ takes <Mono>{fault.better}</Mono>
        </>
      )}
    </span>
  );
}

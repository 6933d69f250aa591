import { useQuery } from "@tanstack/react-query";
import { answer, api, form } from "../api/client";
import { useVocabulary } from "../state/vocabulary";
import { editLook } from "../state/edits";
import { FinishLine, type FinishState } from "./FinishLine";
import { Section } from "../ui/Section";
import { FileButton } from "../ui/FileButton";
import { useChange } from "../state/queries";
import { Select } from "../ui/Select";

/** LUTs: one from the shelf, or a table of your own, with its opacity. */
export function Lut({ grade }: { grade: FinishState["grade"] }) {
  const { luts } = useVocabulary();
  const shelf = useQuery({
    queryKey: ["tables"],
    queryFn: () => answer(api.GET("/api/tables")),
    staleTime: Infinity,
  });
  const choose = (table: string | null, table_name: string) =>
    editLook({ finish: { grade: { table, table_name } } }, table ? `LUT ${table_name}` : "No LUT");
  const bring = useChange((file: File) => answer(api.POST("/api/tables", form(file))), {
    stale: "tables",
    then: (made) => choose(made.id, made.name),
  });
  return (
    <Section
      title="LUT"
      aside={
        <FileButton
          label="LUT file"
          endings={luts}
          className="quiet underline"
          onFiles={([file]) => file && bring.mutate(file)}
        >
          Add a table
        </FileButton>
      }
    >
      <Select
        className="w-full"
        label="LUT"
        value={grade.table ?? ""}
        options={[
          { value: "", label: "None" },
          ...(shelf.data ?? []).map((t) => ({ value: t.id, label: t.name })),
        ]}
        onPick={(id) => {
          const found = shelf.data?.find((t) => t.id === id);
          void choose(found?.id ?? null, found?.name ?? "");
        }}
      />
      {grade.table && <FinishLine group="grade" name="table_opacity" />}
    </Section>
  );
}

// A design document that is dropped anywhere opens as a gadget of its own.
import { useCallback, useState } from "react";
import { useNavigate } from "react-router";
import { useNewGadget } from "../api/queries";
import { Button } from "../ui/controls";
import { Problems } from "../ui/problems";
import { TABLE, useDroppedFile } from "./drop";

export function Dropped() {
  const open = useNewGadget();
  const navigate = useNavigate();
  const [stranger, setStranger] = useState("");
  const { mutate, reset } = open;
  useDroppedFile(
    useCallback(
      (file: File) => {
        const known = /\.json$/i.test(file.name);
        setStranger(known ? "" : file.name);
        reset();
        if (known)
          mutate(
            { from: "document", file },
            { onSuccess: (project) => void navigate(`/gadgets/${project.variants[0]?.id}/draw`) },
          );
        return true;
      },
      [mutate, reset, navigate],
    ),
    true,
  );
  if (!stranger && !open.error) return null;
  return (
    <div className="rounded-card border-line bg-sheet fixed top-3 left-1/2 z-50 w-[min(36rem,calc(100vw-2rem))] -translate-x-1/2 border p-3 shadow-lg">
      <Problems error={open.error} />
      {stranger && (
        <p role="alert">
          {stranger} is no design document (JSON).
          {TABLE.test(stranger) && " A table of parts is taken on the page of all gadgets, or by From a table in Draw."}
        </p>
      )}
      <Button
        className="mt-2"
        onClick={() => {
          setStranger("");
          reset();
        }}
      >
        Understood
      </Button>
    </div>
  );
}

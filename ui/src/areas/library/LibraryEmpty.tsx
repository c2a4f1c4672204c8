import { useMay } from "../../api/actions";
import { FirstStep } from "../../kit/FirstStep";
import { tr } from "../../kit/tr";

/** LibraryEmpty is what a list of the library says while nothing is in it. */
export function LibraryEmpty({ what, children }: { what: string; children: string }) {
  const may = useMay();
  return (
    <FirstStep
      title={tr("No {{what}} yet", { what })}
      ways={
        may("begin-library")
          ? [
              ["/begin", tr("Use the starter library")],
              ["/library/files", tr("Import files")],
            ]
          : []
      }
    >
      {children}
    </FirstStep>
  );
}

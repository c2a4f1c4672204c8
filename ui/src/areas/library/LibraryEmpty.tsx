import { useMay } from "../../api/actions";
import { FirstStep } from "../../kit/FirstStep";

/** LibraryEmpty is what a list of the library says while nothing is in it. */
export function LibraryEmpty({ what, children }: { what: string; children: string }) {
  const may = useMay();
  return (
    <FirstStep
      title={`No ${what} yet`}
      ways={
        may("begin-library")
          ? [
              ["/begin", "Use the starter library"],
              ["/library/files", "Import files"],
            ]
          : []
      }
    >
      {children}
    </FirstStep>
  );
}

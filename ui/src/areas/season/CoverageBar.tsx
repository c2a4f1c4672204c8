import type { S } from "../../api/client";
import { Explain } from "../../kit/Explain";
import { tr } from "../../kit/tr";
import { percent } from "../../kit/words";

/** CoverageBar shows the number, the most any plan could reach or what was computed when it was planned, and where they come from. */
export function CoverageBar({
  coverage,
  bound,
  planned,
  explained,
}: {
  coverage: number;
  bound?: number;
  planned?: number;
  explained?: S["Explained"];
}) {
  return (
    <div>
      <p className="flex items-baseline gap-3">
        <span className="head num text-[42px] leading-[46px] font-bold">
          {explained ? (
            <Explain label={tr("Where the coverage comes from")} number={<span data-coverage>{percent(coverage)}</span>}>
              <p>{explained.formula}</p>
              <p className="num mt-1 text-soft">
                {tr(
                  "{{students}} students, {{needs}} open needs. The bound gives every unit the times that suit it best at prices of the minutes, with the order of weeks left out: no plan can reach more.",
                  { students: explained.students, needs: explained.needs },
                )}
              </p>
            </Explain>
          ) : (
            percent(coverage)
          )}
        </span>
        <span className="text-soft">
          {bound
            ? tr("no plan can reach more than {{bound}}", { bound: percent(bound) })
            : planned !== undefined &&
              tr("{{planned}} when it was planned; what students have, and who comes, has changed since", { planned: percent(planned) })}
        </span>
      </p>
      <svg viewBox="0 0 100 6" preserveAspectRatio="none" className="mt-1.5 h-2.5 w-full" aria-hidden="true">
        <path d="M0 3H100" stroke="var(--color-rule)" strokeWidth={0.8} />
        <rect width={coverage * 100} height={6} fill="var(--color-ink)" />
        {bound && <rect x={bound * 100 - 0.3} width={0.6} height={6} fill="var(--color-clay)" />}
      </svg>
    </div>
  );
}

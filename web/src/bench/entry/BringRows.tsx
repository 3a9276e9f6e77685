import { useState } from "react";
import { api, asFile, asked, Problem } from "../../api/client";
import { useBench } from "../../job/useJob";
import { FileButton } from "../../ui/FileButton";

/** Rows of a list out of a CSV file; refused rows are listed by line and reason. */
export function BringRows({ full }: { full: string }) {
  const bench = useBench();
  const [said, setSaid] = useState<{ path: string; text: string }[]>([]);
  const bring = async (file: File) => {
    const params = { path: { job_id: bench.job.id }, query: { list: full, after: bench.job.entries } };
    try {
      bench.take(await asked(api.POST("/api/jobs/{job_id}/rows", { params, ...asFile(file) })));
      setSaid([]);
    } catch (raised) {
      const problem = raised as Problem;
      setSaid(problem.errors.length ? problem.errors : [{ path: "", text: problem.title }]);
    }
  };
  if (!bench.open) return null;
  return (
    <div className="bring-rows">
      <FileButton accept=".csv,text/csv" onFile={bring}>
        Bring in from CSV
      </FileButton>
      {said.length > 0 && (
        <div className="say fault" role="alert">
          <strong>Nothing was brought in</strong>
          {said.map((row) => (
            <p key={row.path + row.text}>
              {row.path}: {row.text}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}

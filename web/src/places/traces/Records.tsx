import { useState } from "react";
import { useNavigate } from "react-router";
import { TextField } from "../../parts/form";

/** The way into what was written down: from a code to its whole story. unknown is a code that nothing is called. */
export default function Records({ unknown = "" }: { unknown?: string }) {
  const [code, setCode] = useState(unknown);
  const go = useNavigate();
  return (
    <div className="px-6 pt-[18px] pb-6 max-[760px]:px-3">
      <h1 tabIndex={-1} className="mb-4 font-title text-[29px] font-semibold">
        Records
      </h1>
      <form
        className="sheet max-w-[720px] p-5"
        onSubmit={(e) => {
          e.preventDefault();
          if (code.trim()) go(`/trace?code=${encodeURIComponent(code.trim())}`);
        }}
      >
        <h2 className="phase mb-1 text-[16px]">Follow a lot, or a jar</h2>
        <p className="mb-3 text-[13.5px] text-ink-2">
          The code of a lot leads to every jar that has something of it and to who has them; the code on a jar leads back to every lot that
          went in. A supplier’s own words for a lot do as well.
        </p>
        <div className="flex items-start gap-3">
          <TextField
            className="w-[320px]"
            label="Code on the lot or the jar"
            value={code}
            placeholder="26-317-A, or a supplier’s lot"
            onChange={(e) => setCode(e.target.value)}
            error={unknown && `No lot and no batch is called “${unknown}”. A supplier’s words are matched whole.`}
          />
          <button type="submit" className="btn mt-[20px]" disabled={!code.trim()}>
            Follow it
          </button>
        </div>
      </form>
    </div>
  );
}

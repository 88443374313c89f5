import { ChevronRight } from "lucide-react";
import { useState } from "react";
import { type Branch, patternOf } from "./names";

type Props = { branches: Branch[]; onAdd: (pattern: string) => void; onShow: (pattern: string | null) => void };

/** Names by their parts; a branch is added as a pattern. */
export function NameTree({ branches, onAdd, onShow }: Props) {
  return (
    <ul className="pl-2">
      {branches.map((branch) => (
        <Node key={branch.path + branch.leaf} branch={branch} onAdd={onAdd} onShow={onShow} />
      ))}
    </ul>
  );
}

function Node({ branch, onAdd, onShow }: Omit<Props, "branches"> & { branch: Branch }) {
  const [open, setOpen] = useState(false);
  const pattern = patternOf(branch);
  return (
    <li>
      <div className="flex items-center rounded-sm hover:bg-control">
        {branch.leaf ? (
          <span className="w-5" />
        ) : (
          <button
            type="button"
            aria-expanded={open}
            aria-label={`${open ? "Close" : "Open"} ${branch.label}`}
            className="p-1 text-quiet"
            onClick={() => setOpen(!open)}
          >
            <ChevronRight size={12} className={open ? "rotate-90" : ""} />
          </button>
        )}
        <button
          type="button"
          title={`add ${pattern}`}
          className="min-w-0 flex-1 truncate py-0.5 text-left"
          onClick={() => onAdd(pattern)}
          onPointerEnter={() => onShow(pattern)}
          onPointerLeave={() => onShow(null)}
          onFocus={() => onShow(pattern)}
          onBlur={() => onShow(null)}
        >
          {branch.label}
        </button>
        {!branch.leaf && <span className="value pr-2 text-quiet">{branch.count}</span>}
      </div>
      {open && <NameTree branches={branch.branches} onAdd={onAdd} onShow={onShow} />}
    </li>
  );
}

import { Download } from "lucide-react";
import type { ReactNode } from "react";

/** Fetches a file from the server. */
export function FetchLink({ address, title, children }: { address: string; title?: string; children: ReactNode }) {
  return (
    <a
      href={address}
      download
      title={title}
      className="inline-flex h-[26px] items-center gap-1.5 rounded-sm bg-control px-2.5 whitespace-nowrap hover:bg-raised"
    >
      <Download size={13} /> {children}
    </a>
  );
}

import { useRef, useState } from "react";
import { report } from "../controls/notices";
import { type Brought, type Uploading, upload } from "./uploading";

/** Sends files to the server and says where they lie there: how far that is, and how to stop it. */
export function useBringing(then: (folder: string, files: Brought[]) => void | Promise<void>) {
  const [sending, setSending] = useState<Uploading | null>(null);
  const stopping = useRef(new AbortController());
  const bring = async (files: Brought[]) => {
    if (!files.length) return;
    stopping.current = new AbortController();
    setSending({ name: files[0]?.file.name ?? "", files: files.length, done: 0, sent: 0, total: 1 });
    try {
      await then(await upload(files, setSending, stopping.current.signal), files);
    } catch (error) {
      if (!(error instanceof DOMException)) report(error);
    } finally {
      setSending(null);
    }
  };
  return { sending, bring, stop: () => stopping.current.abort() };
}

import { useEffect } from "react";
import { useAttachments } from "./attachments";

const KINDS = /^(image\/|application\/pdf$)/;

/** Photographs that are pasted, or dropped anywhere on the bench, belong to what is in hand. */
export function useDroppedAttachments(open: boolean) {
  const attachments = useAttachments();
  useEffect(() => {
    if (!open || !attachments) return;
    const take = (files: FileList | undefined) => {
      const found = [...(files ?? [])].filter((file) => KINDS.test(file.type));
      if (!found.length) return false;
      attachments.add(found, document.querySelector<HTMLElement>("[data-attachments]")?.dataset.attachments ?? "");
      return true;
    };
    const paste = (event: ClipboardEvent) => {
      if (take(event.clipboardData?.files)) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      event.preventDefault();
      take(event.dataTransfer?.files);
    };
    const over = (event: DragEvent) => event.preventDefault();
    addEventListener("paste", paste);
    addEventListener("drop", drop);
    addEventListener("dragover", over);
    return () => {
      removeEventListener("paste", paste);
      removeEventListener("drop", drop);
      removeEventListener("dragover", over);
    };
  }, [open, attachments]);
}

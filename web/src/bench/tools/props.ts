import type { PartView, ToolView } from "../../api/client";

export interface ToolProps<K extends ToolView["tool"] = ToolView["tool"]> {
  tool: Extract<ToolView, { tool: K }>;
  part: PartView;
  /** The list that the tool enters into. */
  full: string;
}

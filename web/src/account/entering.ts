import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, asked } from "../api/client";
import { left, meet } from "../api/session";
import { keep } from "../job/kept";

/** Goes in: whoever the session is of now is met, and what the page held of somebody else is let go of. */
export function useEntering(back: string) {
  const navigate = useNavigate();
  const cache = useQueryClient();
  return async () => {
    const me = await asked(api.GET("/api/me"));
    // Whoever left here without signal is signed out by this.
    left();
    meet(me.id);
    cache.clear();
    cache.setQueryData(["me"], me);
    void keep("query", JSON.stringify(["me"]), { data: me, at: Date.now() });
    navigate(back, { replace: true });
  };
}

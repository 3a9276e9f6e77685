import { useMutation, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, asked } from "../api/client";
import { useMe } from "../api/queries";

/** Organisations that would like to take this person in: they come, or they do not. */
export function Invitations() {
  const me = useMe().data;
  const cache = useQueryClient();
  const answer = useMutation({
    mutationFn: ({ id, come }: { id: string; come: boolean }) => {
      const params = { path: { invitation_id: id } };
      return asked(
        come
          ? api.POST("/api/invitations/{invitation_id}/accept", { params })
          : api.POST("/api/invitations/{invitation_id}/decline", { params }),
      );
    },
    onSuccess: (view) => cache.setQueryData(["me"], view),
  });
  return me?.invitations.map((one) => (
    <div key={one.id} className="invitation" role="status">
      <span>
        {one.by} invites you to <b>{one.organisation}</b> as {one.role}.
      </span>
      <Button disabled={answer.isPending} onClick={() => answer.mutate({ id: one.id, come: true })}>
        Accept
      </Button>
      <Button variant="link" disabled={answer.isPending} onClick={() => answer.mutate({ id: one.id, come: false })}>
        Decline
      </Button>
    </div>
  ));
}

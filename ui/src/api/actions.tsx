import { useMutation, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { tr } from "../kit/tr";
import { client, type S, Trouble, unwrap } from "./client";

type Toast = { words: string; change?: string; bad?: boolean };

type Toasts = {
  toast: Toast | null;
  say: (toast: Toast | null) => void;
  undo: () => void;
};

const ToastContext = createContext<Toasts | null>(null);

/** ToastProvider keeps the last thing toast, and the change it can undo. */
export function ToastProvider({ children }: { children: ReactNode }) {
  const [toast, say] = useState<Toast | null>(null);
  const queries = useQueryClient();
  const undo = useCallback(async () => {
    if (!toast?.change) return;
    try {
      await unwrap(client.POST("/api/changes/{id}/undo", { params: { path: { id: toast.change } } }));
      say({ words: tr("Undone: {{words}}", { words: toast.words }) });
    } catch (e) {
      say({ words: (e as Error).message, bad: true });
    }
    await queries.invalidateQueries();
  }, [toast, queries]);
  const toasts = useMemo(() => ({ toast, say, undo }), [toast, undo]);
  return <ToastContext.Provider value={toasts}>{children}</ToastContext.Provider>;
}

export function useToast(): Toasts {
  const toasts = useContext(ToastContext);
  if (!toasts) throw new Error("useToast outside of ToastProvider");
  return toasts;
}

/** useAction sends a change, says what was done with its undo, and reads everything anew. */
export function useAction<In, Out>(send: (input: In) => Promise<Out>, words?: (out: Out, input: In) => string, after?: (out: Out) => void) {
  const queries = useQueryClient();
  const { say } = useToast();
  return useMutation<Out, Trouble, In>({
    mutationFn: send,
    onSuccess: async (out, input) => {
      const change = (out as { change?: string } | undefined)?.change;
      if (words) say({ words: words(out, input), change });
      after?.(out);
      await queries.invalidateQueries();
    },
    onError: (e) => say({ words: e instanceof Trouble ? e.message : String(e), bad: true }),
  });
}

const MeContext = createContext<S["Me"] | null>(null);
export const MeProvider = MeContext.Provider;

/** useMe is who is signed in. */
export function useMe(): S["Me"] {
  const me = useContext(MeContext);
  if (!me) throw new Error("useMe before signing in");
  return me;
}

/** useMay says whether an operation is open to who is signed in; the server decides again when it is asked. */
export function useMay(): (operation: string) => boolean {
  const me = useMe();
  return (operation) => (me.may ?? []).includes(operation);
}

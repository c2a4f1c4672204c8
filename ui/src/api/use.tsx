import { useMutation, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { client, type S, Trouble, take } from "./client";

type Said = { words: string; change?: string; bad?: boolean };

type Voice = {
  said: Said | null;
  say: (said: Said | null) => void;
  undo: () => void;
};

const VoiceContext = createContext<Voice | null>(null);

/** VoiceProvider keeps the last thing said, and the change it can undo. */
export function VoiceProvider({ children }: { children: ReactNode }) {
  const [said, say] = useState<Said | null>(null);
  const queries = useQueryClient();
  const undo = useCallback(async () => {
    if (!said?.change) return;
    try {
      await take(client.POST("/api/changes/{id}/undo", { params: { path: { id: said.change } } }));
      say({ words: `Undone: ${said.words}` });
    } catch (e) {
      say({ words: (e as Error).message, bad: true });
    }
    await queries.invalidateQueries();
  }, [said, queries]);
  const voice = useMemo(() => ({ said, say, undo }), [said, undo]);
  return <VoiceContext.Provider value={voice}>{children}</VoiceContext.Provider>;
}

export function useVoice(): Voice {
  const voice = useContext(VoiceContext);
  if (!voice) throw new Error("useVoice outside of VoiceProvider");
  return voice;
}

/** useDo sends a change, says what was done with its undo, and reads everything anew. */
export function useDo<In, Out>(send: (input: In) => Promise<Out>, words?: (out: Out, input: In) => string, after?: (out: Out) => void) {
  const queries = useQueryClient();
  const { say } = useVoice();
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

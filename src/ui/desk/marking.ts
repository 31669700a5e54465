import type { Station } from "@/core/findings";
import type { Mark } from "@/core/study";
import { send } from "../parts/send";
import type { Slice } from "./store";

/** Moments of the study that people named. */
export interface Marking {
  marks: readonly Mark[];
  /** The station that was last looked at: where a mark stands on the trail. */
  standing: Station;
  stand(station: Station): void;
  /** Names the state that the server has; answers the reason where it cannot. */
  mark(name: string): Promise<string | undefined>;
  unmark(id: string): Promise<string | undefined>;
}

export const createMarking: (id: string, marks: readonly Mark[]) => Slice<Marking> = (id, opened) => (set, get) => ({
  marks: opened,
  standing: "question",
  stand: (standing) => set({ standing }),
  async mark(name) {
    const { revision, standing: station } = get();
    const answer = await send<Mark>(`/api/studies/${id}/marks`, "POST", { name, station, revision });
    if (!answer.ok) return answer.sentence;
    const marks = [...get().marks, answer.data].sort((a, b) => a.revision - b.revision || (a.at < b.at ? -1 : 1));
    set({ marks });
    return undefined;
  },
  async unmark(mark) {
    const answer = await send<{ id: string }>(`/api/studies/${id}/marks/${mark}`, "DELETE");
    if (!answer.ok) return answer.sentence;
    set({ marks: get().marks.filter((m) => m.id !== mark) });
    return undefined;
  },
});

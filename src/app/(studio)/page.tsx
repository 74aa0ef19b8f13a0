import { ScoreView } from "@/views/score/ScoreView";

export default function Page() {
  return <ScoreView />;
}

import { MovesView } from "@/views/moves/MovesView";

export default function Page() {
  return <MovesView />;
}

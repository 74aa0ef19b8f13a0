import { SendView } from "@/views/send/SendView";

export default function Page() {
  return <SendView />;
}

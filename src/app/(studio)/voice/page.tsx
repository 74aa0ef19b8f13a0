import { VoiceView } from "@/views/voice/VoiceView";

export default function Page() {
  return <VoiceView />;
}

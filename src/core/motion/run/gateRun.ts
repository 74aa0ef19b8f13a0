import { exp2 } from "../../dsp/portableMath";
import { GATE_ROOM, gateInto, gateRoom } from "../../pattern/gate";
import { Stage } from "./sharedStage";

/** The value of a gate, with the times that it has now. */
export class GateRun extends Stage {
  private readonly room = gateRoom(this.op.shape.gate!);

  override evaluate(): void {
    const { room, values } = this;
    const { shape, moved } = this.op;
    const gate = shape.gate!;
    const cycles = this.state.cycles;
    room[GATE_ROOM.place] = (cycles - Math.floor(cycles)) * gate.length;
    if (moved !== null) {
      // Its lengths are counted in steps, which are shorter at a higher rate.
      const ratio = moved.rate === null ? 1 : exp2(values[~moved.rate]!);
      room[GATE_ROOM.attack] = gate.attack * ratio * (moved.attack === null ? 1 : exp2(values[~moved.attack]!));
      room[GATE_ROOM.tail] = gate.tail * ratio * (moved.release === null ? 1 : exp2(values[~moved.release]!));
      if (moved.hold !== null) room[GATE_ROOM.hold] = values[~moved.hold]! / 100;
      if (moved.swing !== null) room[GATE_ROOM.swing] = values[~moved.swing]! / 100;
    }
    gateInto(gate, room);
    this.state.target = room[GATE_ROOM.value]!;
  }
}

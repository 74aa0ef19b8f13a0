/** What can be done with parts, sounds, modulators, the backing and curves. */
export { partActions } from "@/views/rail/partActions";
export { backingActions, muteBacking, startBacking } from "@/views/score/backingActions";
export { curveTools } from "@/views/score/editors/curveTools";
export { addModulator, modulatorActions } from "@/views/score/modulatorActions";
export { addSound, soundActions } from "@/views/score/soundActions";

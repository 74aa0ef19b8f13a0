import { fileStem, saveFile } from "@/ui/saveFile";
import { useStudio } from "./studio";

/** Saves the open project as a file of the person's own; false, with a message, when that fails. */
export function useSaveAsFile(): () => Promise<boolean> {
  const { workspace, tell } = useStudio();
  return async () => {
    try {
      const { name } = workspace.store.getState().project;
      saveFile(`${fileStem(name)}.clovik.json`, await workspace.fileText(), "application/json");
      workspace.saver.savedAsFile();
      return true;
    } catch (error) {
      tell({ kind: "error", text: `The project could not be written: ${(error as Error).message}.` });
      return false;
    }
  };
}

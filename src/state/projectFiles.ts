/** What reads and writes project files, and the recordings in them: loaded when it is first needed, or ahead of that. */
export const projectFiles = () => import("@/core/format/projectFile");

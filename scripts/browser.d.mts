export declare const launchOptions: { executablePath: string; args: string[] };

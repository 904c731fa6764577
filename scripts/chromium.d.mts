export declare const headlessShell: string;
export declare const chromiumOptions: { executablePath: string; args: string[] };

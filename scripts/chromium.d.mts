export declare const chromiumFile: () => string;
export declare const chromiumOptions: (...more: string[]) => { executablePath: string; args: string[] };

// host.ts: the page or the server answers.
@external("env", "nearestMesh") export declare function nearestMesh(body: i32): void;

// Which files can be brought in, as file pickers and texts tell it.

/** Buildings. */
export const BUILDINGS =
  ".glb,.gltf,.obj,.ifc,.ifczip,.fbx,.dae,.usd,.usda,.usdc,.usdz,.3ds,.dxf,.stl,.ply,.zip";

/** Film tables. */
export const TABLES = ".cube,.3dl,.spi1d,.spi3d,.csp,.clf,.ctf";

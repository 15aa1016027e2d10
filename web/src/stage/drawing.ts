let software: boolean | null = null;

/** Whether there is no graphics processor, so that smoothing and accelerated canvases cost more than they give. */
export function drawsInSoftware(): boolean {
  if (software !== null) return software;
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  software = /swiftshader|llvmpipe|software|basic render/i.test(name);
  return software;
}

/** The flat drawing context of a canvas, kept on the main processor where there is no other. */
export function flatContext(canvas: HTMLCanvasElement): CanvasRenderingContext2D {
  return canvas.getContext('2d', { willReadFrequently: drawsInSoftware() })!;
}

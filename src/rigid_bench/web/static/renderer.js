// How scenes are drawn: smooth where there is a graphics card; where the processor draws, a quarter of the work.
import * as THREE from "./vendor/three.module.min.js";

function hasGraphicsCard() {
  const probe = document.createElement("canvas").getContext("webgl2", { failIfMajorPerformanceCaveat: true });
  probe?.getExtension("WEBGL_lose_context")?.loseContext();
  return probe !== null;
}

// throws where the browser draws no scenes at all
export function sceneRenderer() {
  const isFast = hasGraphicsCard();
  const renderer = new THREE.WebGLRenderer({ antialias: isFast, preserveDrawingBuffer: true });
  renderer.setPixelRatio(isFast ? Math.min(window.devicePixelRatio, 2) : 1);
  renderer.localClippingEnabled = true;
  return renderer;
}

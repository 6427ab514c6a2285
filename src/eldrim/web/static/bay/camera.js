// Looks for a code through the tablet's camera. The decoder is fetched only when it is wanted.
const LOOK_MS = 150;
// Larger pictures take longer and show a label no better.
const WIDEST = 800;

// Shows the camera in `place` until a code is read, then gives its text to `found`. `words` says
// what stands below it, what the button is called and what is said where there is no camera.
export async function scan(place, words, found) {
  let stream;
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      video: { facingMode: "environment", width: { ideal: 1280 } },
    });
  } catch {
    place.replaceChildren(
      Object.assign(document.createElement("p"), { className: "refusal", textContent: words.none }),
    );
    place.hidden = false;
    return;
  }
  const video = Object.assign(document.createElement("video"), { muted: true, playsInline: true, srcObject: stream });
  const stop = Object.assign(document.createElement("button"), {
    type: "button",
    className: "btn-big",
    textContent: words.stop,
  });
  const aim = Object.assign(document.createElement("p"), { textContent: words.aim });
  aim.setAttribute("role", "status");
  place.replaceChildren(video, aim, stop);
  place.hidden = false;
  place.scrollIntoView({ block: "center" });
  let looking = true;
  const end = () => {
    looking = false;
    stream.getTracks().forEach((t) => t.stop());
    place.replaceChildren();
    place.hidden = true;
  };
  stop.addEventListener("click", end);
  await video.play();
  const { default: decode } = await import("../vendor/qr/decode.js");
  const canvas = document.createElement("canvas");
  while (looking && place.isConnected) {
    const text = read(video, canvas, decode);
    if (text) {
      end();
      found(text);
      return;
    }
    await new Promise((go) => {
      window.setTimeout(go, LOOK_MS);
    });
  }
  end();
}

function read(video, canvas, decode) {
  if (!video.videoWidth) return "";
  const scale = Math.min(1, WIDEST / video.videoWidth);
  canvas.width = Math.round(video.videoWidth * scale);
  canvas.height = Math.round(video.videoHeight * scale);
  const sheet = canvas.getContext("2d", { willReadFrequently: true });
  sheet.drawImage(video, 0, 0, canvas.width, canvas.height);
  // It raises where there is no code in the picture, which is most of the time.
  try {
    return decode(sheet.getImageData(0, 0, canvas.width, canvas.height));
  } catch {
    return "";
  }
}

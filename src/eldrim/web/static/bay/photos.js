// Photos that wait on the tablet until they can be sent: apart from the queue, which has little room.
const SHELF = "eldrim-photos";
const LONGEST_SIDE = 1000;
const place = (id) => `/kept-photo/${id}`;

// Keeps a photo; what is returned names it.
export async function keepPhoto(file) {
  const id = freshId();
  const shelf = await caches.open(SHELF);
  await shelf.put(place(id), new Response(await smaller(file)));
  return id;
}

// The photo; null where the browser gave its room to something else.
export async function photoOf(id) {
  const found = await (await caches.open(SHELF)).match(place(id));
  return found ? found.blob() : null;
}

export async function withoutPhoto(id) {
  await (await caches.open(SHELF)).delete(place(id));
}

async function smaller(file) {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, LONGEST_SIDE / Math.max(image.width, image.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((go) => {
    canvas.toBlob(go, "image/jpeg", 0.8);
  });
}

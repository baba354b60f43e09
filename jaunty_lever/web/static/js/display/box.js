// @ts-check
// What fills a rectangle about its own middle: its outline, its corners, and that it is full.

// Those of a kind of node, by what tells its width and height.
export const boxed = sizeOf => ({
  path(node, index, element) {
    const [wide, high] = sizeOf(node, index, element),
      frame = new Path2D();
    frame.rect(-wide / 2, -high / 2, wide, high);
    return frame;
  },
  points(node, index, element) {
    const [x, y] = [...sizeOf(node, index, element)].map(side => side / 2);
    return [-x, -y, x, -y, x, y, -x, y];
  },
  hasInside: () => true,
  lineWidth: () => 0,
});

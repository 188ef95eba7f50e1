// The board of the harbour office. What is planted in it is switched by `window.office`.
(function () {
  const { oneByOne, heavyTides, latePicture } = window.office;
  const STATIONS = 24;
  const POINTS = 960;

  /** The height of the water at a station, by its constituents. */
  function heightAt(station, hour) {
    let height = 0;
    for (let i = 1; i <= 37; i++) height += Math.cos((hour * i) / 12 + station) / i;
    return height;
  }

  /** Draws the tides of every station: each point anew for every station, all in one task. */
  function drawTides() {
    const context = document.getElementById('curve').getContext('2d');
    const rounds = heavyTides ? 26 : 1;
    for (let station = 0; station < STATIONS; station++) {
      context.beginPath();
      for (let x = 0; x < POINTS; x++) {
        let height = 0;
        for (let round = 0; round < rounds; round++) height = heightAt(station, x / 20);
        context.lineTo(x, 80 + height * 20);
      }
      context.stroke();
    }
  }

  function showPicture() {
    if (!latePicture) return;
    const picture = new Image(960, 400);
    picture.className = 'harbour';
    picture.alt = 'The harbour';
    picture.src = '/office/assets/harbour.png';
    document.getElementById('picture').append(picture);
  }

  async function json(url) {
    const answer = await fetch(url);
    if (!answer.ok) throw new Error(`${url} answered ${answer.status}`);
    return answer.json();
  }

  /** Asks station by station, though the server answers for all at once. */
  async function windows() {
    if (!oneByOne) return json(`/tides/windows?stations=${STATIONS}`);
    const found = [];
    for (let station = 1; station <= STATIONS; station++)
      found.push(await json(`/tides/window?station=${station}`));
    return found;
  }

  async function showTides() {
    const list = document.getElementById('windows');
    list.replaceChildren(
      ...(await windows()).map(({ station, from }) => {
        const item = document.createElement('li');
        item.textContent = `${station}: from ${from}`;
        return item;
      })
    );
  }

  document.getElementById('tides').addEventListener('click', () => void showTides());
  document.getElementById('print').addEventListener('click', function printPlan() {
    // Nobody has planned anything yet.
    window.office.plan.pages.forEach((page) => page.print());
  });
  drawTides();
  showPicture();
})();

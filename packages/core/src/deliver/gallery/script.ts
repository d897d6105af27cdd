/**
 * Opens a picture large, by mouse, touch and keyboard; without it, its link does. Each has an address of its own, and going back leads back to the
 * page.
 */
export const galleryScript = (): string => `'use strict';
(function () {
  if (!window.PhotoSwipeLightbox || !window.PhotoSwipe) return;
  Array.prototype.forEach.call(document.querySelectorAll('.picture-set'), function (set) {
    var words = JSON.parse(set.dataset.words);
    var links = Array.prototype.slice.call(set.querySelectorAll('.picture-page a'));
    var look = /look-[a-z]+/.exec(set.className)[0];
    var lightbox = new window.PhotoSwipeLightbox({
      gallery: set,
      children: '.picture-page a',
      pswpModule: window.PhotoSwipe,
      mainClass: 'picture-view ' + look,
      bgOpacity: 1,
      showHideAnimationType: matchMedia('(prefers-reduced-motion: reduce)').matches ? 'none' : 'fade',
      paddingFn: function (view) {
        var side = view.x < 700 ? 0 : 64;
        return { top: 60, bottom: 60, left: side, right: side };
      },
      closeTitle: words.close,
      zoomTitle: words.zoom,
      arrowPrevTitle: words.previous,
      arrowNextTitle: words.next,
      errorMsg: words.notLoaded,
    });

    // The address of the picture that is seen.
    var isOurs = false;
    var addressOf = function (index) { return '#' + links[index].closest('li').id; };
    var indexOf = function (hash) {
      for (var at = 0; at < links.length; at++) if (addressOf(at) === hash) return at;
      return -1;
    };
    lightbox.on('change', function () {
      var address = addressOf(lightbox.pswp.currIndex);
      if (isOurs) history.replaceState({ picture: true }, '', address);
      else history.pushState({ picture: true }, '', address);
      isOurs = true;
    });
    lightbox.on('close', function () {
      if (isOurs && history.state && history.state.picture) history.back();
      isOurs = false;
    });
    window.addEventListener('popstate', function () {
      if (lightbox.pswp) {
        isOurs = false;
        lightbox.pswp.close();
      } else show();
    });
    var show = function () {
      var index = indexOf(location.hash);
      if (index < 0) return;
      // Going back from it leads to the page that it belongs to.
      var address = location.hash;
      history.replaceState(null, '', location.pathname + location.search);
      history.pushState({ picture: true }, '', address);
      isOurs = true;
      lightbox.loadAndOpen(index, { gallery: set });
    };

    lightbox.on('uiRegister', function () {
      var pswp = lightbox.pswp;
      pswp.ui.registerElement({
        name: 'words',
        className: 'words',
        order: 9,
        isButton: false,
        appendTo: 'root',
        onInit: function (element) {
          element.setAttribute('aria-live', 'polite');
          pswp.on('change', function () {
            var caption = links[pswp.currIndex].parentNode.querySelector('figcaption');
            var parts = caption ? Array.prototype.map.call(caption.children, function (part) { return part.textContent; }) : [];
            element.textContent = parts.join(' \u00b7 ');
          });
        },
      });
      if (document.fullscreenEnabled) {
        var turn = function () {
          if (document.fullscreenElement) document.exitFullscreen();
          else pswp.element.requestFullscreen();
        };
        pswp.ui.registerElement({
          name: 'full-screen',
          title: words.fullScreen,
          order: 8,
          isButton: true,
          html: icon('M8 13V8h5M19 8h5v5M24 19v5h-5M13 24H8v-5'),
          onClick: turn,
        });
        pswp.on('keydown', function (event) {
          if (event.originalEvent.key === 'f' && !event.originalEvent.ctrlKey && !event.originalEvent.metaKey) turn();
        });
        pswp.on('destroy', function () { if (document.fullscreenElement) document.exitFullscreen(); });
      }
      if (set.dataset.offers === 'download')
        pswp.ui.registerElement({
          name: 'download',
          title: words.download,
          order: 7,
          isButton: true,
          tagName: 'a',
          html: icon('M16 7v12M10.500 14l5.500 5.500 5.500-5.500M8 24h16'),
          onInit: function (element) {
            element.setAttribute('download', '');
            pswp.on('change', function () { element.href = links[pswp.currIndex].href; });
          },
        });
    });
    lightbox.init();
    show();
  });
  function icon(path) {
    return '<svg aria-hidden="true" viewBox="0 0 32 32" width="32" height="32" class="pswp__icn"><path d="' + path + '" style="fill:none;stroke:var(--pswp-icon-color);stroke-width:2.500"/></svg>';
  }
})();
`;

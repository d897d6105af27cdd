import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { FILE_TYPES, joinPath, outputGeometry, outputStem, type Preset } from '@rundle/core';

/** Masters as they come from cameras, to try a preset on. */
const MASTERS = [
  { what: 'Landscape, 24 megapixels', fileName: 'LFS_0412.jpg', width: 6000, height: 4000 },
  { what: 'Upright, 24 megapixels', fileName: 'LFS_0431.jpg', width: 4000, height: 6000 },
  { what: 'Panorama', fileName: 'Emberquay waterfront (wide).jpg', width: 12000, height: 3000 },
  { what: 'Small, from a phone', fileName: 'phone-0007.jpg', width: 800, height: 1200 },
];

/** What a preset makes of four ordinary masters: size and name, worked out at once by the same rules as a run. */
@Component({
  selector: 'rd-examples',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>What comes out</h2>
    <ul>
      @for (example of examples(); track example.what) {
        <li>
          <span class="stage" aria-hidden="true">
            <span class="shape" [style.width.px]="example.shape.width" [style.height.px]="example.shape.height"></span>
          </span>
          <span class="words">
            <span class="soft">{{ example.what }}</span>
            <strong class="figures">{{ example.width }} × {{ example.height }} px</strong>
            @if (example.short) {
              <span class="short">smaller than asked, keeps its size</span>
            }
            <span class="path">{{ example.path }}</span>
          </span>
        </li>
      }
    </ul>
  `,
  styles: `
    ul {
      margin: 8px 0 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      gap: 16px;
      align-items: center;
      padding: 9px 0;
      border-top: 1px solid var(--line);
    }
    .stage {
      display: grid;
      place-items: center;
      flex: none;
      width: 88px;
      height: 72px;
    }
    .shape {
      background: var(--petrol-wash);
      border: 1.5px solid var(--petrol);
    }
    .words {
      display: flex;
      flex-direction: column;
      min-width: 0;
      line-height: 20px;
      font-size: 14px;
    }
    strong {
      font-weight: 600;
      font-size: 15px;
    }
    .short {
      color: var(--amber);
    }
    .path {
      overflow-wrap: anywhere;
    }
  `,
})
export class Examples {
  readonly preset = input.required<Preset>();

  protected readonly examples = computed(() => {
    const preset = this.preset();
    return MASTERS.map(({ what, fileName, width, height }, index) => {
      const { output, short } = outputGeometry(preset.size, { width, height });
      const border = 2 * (preset.border?.px ?? 0);
      const size = { width: output.width + border, height: output.height + border };
      const stem = outputStem(preset.name, {
        fileName,
        set: 'Lantern evening',
        preset: preset.title,
        index,
        ...size,
        captured: '2026-06-20T21:40:00+02:00',
        creator: 'Orla Vessby',
      });
      const scale = Math.min(84 / size.width, 68 / size.height);
      const shape = { width: Math.max(2, size.width * scale), height: Math.max(2, size.height * scale) };
      return { what, short, ...size, shape, path: joinPath(preset.folder, `${stem}.${FILE_TYPES[preset.file.type].extension}`) };
    });
  });
}

declare module '@cornerstonejs/codec-openjpeg/wasmjs' {
  /** What the codec is told of a picture, and says of one. */
  export interface FrameInfo {
    width: number;
    height: number;
    bitsPerSample: number;
    componentCount: number;
    isSigned: boolean;
  }

  interface Decoder {
    getEncodedBuffer(length: number): Uint8Array;
    decode(): void;
    getFrameInfo(): FrameInfo;
    getDecodedBuffer(): Uint8Array;
    delete(): void;
  }

  interface Encoder {
    getDecodedBuffer(frame: FrameInfo): Uint8Array;
    setQuality(lossless: boolean, ratio: number): void;
    setCompressionRatio(layer: number, ratio: number): void;
    encode(): void;
    getEncodedBuffer(): Uint8Array;
    delete(): void;
  }

  /** The codec, compiled to WebAssembly. */
  export interface OpenJpeg {
    J2KDecoder: new () => Decoder;
    J2KEncoder: new () => Encoder;
    getExceptionMessage?(error: number): string;
  }

  const make: (options: {
    locateFile(name: string): string;
    print?(text: string): void;
    printErr?(text: string): void;
  }) => Promise<OpenJpeg>;
  export default make;
}

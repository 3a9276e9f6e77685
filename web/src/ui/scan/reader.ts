/** Of the library of codes, what reads and draws the ones that are ours. It is fetched when it is first needed. */
export { HTMLCanvasElementLuminanceSource } from "@zxing/library/esm/browser/HTMLCanvasElementLuminanceSource";
export { default as BarcodeFormat } from "@zxing/library/esm/core/BarcodeFormat";
export { default as BinaryBitmap } from "@zxing/library/esm/core/BinaryBitmap";
export { default as GlobalHistogramBinarizer } from "@zxing/library/esm/core/common/GlobalHistogramBinarizer";
export { default as HybridBinarizer } from "@zxing/library/esm/core/common/HybridBinarizer";
export { default as DecodeHintType } from "@zxing/library/esm/core/DecodeHintType";
export { default as EncodeHintType } from "@zxing/library/esm/core/EncodeHintType";
export { default as QRCodeReader } from "@zxing/library/esm/core/qrcode/QRCodeReader";
export { default as QRCodeWriter } from "@zxing/library/esm/core/qrcode/QRCodeWriter";

declare module 'pdfmake/js/LayoutBuilder.js';
declare module 'pdfmake/js/Renderer.js';

declare module 'bpmn-moddle' {
  export interface ModdleElement {
    $type: string;
    [property: string]: unknown;
  }
  export class BpmnModdle {
    create(type: string, attrs?: Record<string, unknown>): ModdleElement;
    toXML(element: ModdleElement, options?: { format?: boolean }): Promise<{ xml: string }>;
    fromXML(xml: string): Promise<{ rootElement: ModdleElement; warnings: { message: string }[] }>;
  }
}
declare module 'dmn-moddle' {
  export interface ModdleElement {
    $type: string;
    [property: string]: unknown;
  }
  export class DmnModdle {
    create(type: string, attrs?: Record<string, unknown>): ModdleElement;
    toXML(element: ModdleElement, options?: { format?: boolean }): Promise<{ xml: string }>;
    fromXML(xml: string): Promise<{ rootElement: ModdleElement; warnings: { message: string }[] }>;
  }
}

/**
 * Names that Windows' own counter tool uses in English, German, French and Spanish, so that a counter is known whatever
 * the language of the machine. The key is the index that the
 * registry gives to the English name (…\Perflib\009), which is the same in all of them. From memory, with forms of
 * several versions; no published list was at hand.
 */
const names: readonly (readonly [
  index: number,
  english: string,
  german: readonly string[],
  french: readonly string[],
  spanish: readonly string[],
])[] = [
  [2, "System", ["System"], ["Système"], ["Sistema"]],
  [4, "Memory", ["Speicher", "Arbeitsspeicher"], ["Mémoire"], ["Memoria"]],
  [
    6,
    "% Processor Time",
    ["Prozessorzeit (%)", "% Prozessorzeit"],
    ["% temps processeur", "% Temps processeur"],
    ["% de tiempo de procesador", "% Tiempo de procesador"],
  ],
  [24, "Available Bytes", ["Verfügbare Bytes"], ["Octets disponibles"], ["Bytes disponibles"]],
  [
    26,
    "Committed Bytes",
    ["Zugesicherte Bytes"],
    ["Octets dédiés", "Octets validés"],
    ["Bytes confirmados", "Bytes comprometidos"],
  ],
  [28, "Page Faults/sec", ["Seitenfehler/s"], ["Défauts de page/s"], ["Errores de página/s"]],
  [
    30,
    "Commit Limit",
    ["Zusicherungsgrenze", "Zusagegrenze"],
    ["Limite de mémoire dédiée", "Limite de validation"],
    ["Límite de confirmación", "Límite de asignación"],
  ],
  [40, "Pages/sec", ["Seiten/s"], ["Pages/s"], ["Páginas/s"]],
  [
    44,
    "Processor Queue Length",
    ["Prozessor-Warteschlangenlänge", "Prozessorwarteschlangenlänge"],
    ["Longueur de la file du processeur", "Longueur de la file d'attente du processeur"],
    ["Longitud de la cola del procesador", "Longitud de cola del procesador"],
  ],
  [142, "% User Time", ["Benutzerzeit (%)", "% Benutzerzeit"], ["% temps utilisateur"], ["% de tiempo de usuario"]],
  [
    144,
    "% Privileged Time",
    ["Privilegierte Zeit (%)", "% Privilegierte Zeit"],
    ["% temps privilégié"],
    ["% de tiempo privilegiado"],
  ],
  [146, "Context Switches/sec", ["Kontextwechsel/s"], ["Changements de contexte/s"], ["Cambios de contexto/s"]],
  [180, "Working Set", ["Arbeitsseiten", "Workingset"], ["Plage de travail"], ["Espacio de trabajo"]],
  [
    198,
    "Current Disk Queue Length",
    ["Aktuelle Warteschlangenlänge", "Aktuelle Warteschlangenlänge des Datenträgers"],
    ["Taille de file d'attente du disque actuelle", "Longueur actuelle de la file d'attente du disque"],
    ["Longitud actual de la cola de disco"],
  ],
  [
    200,
    "% Disk Time",
    ["Zeit (%)", "Datenträgerzeit (%)"],
    ["Pourcentage du temps disque", "% temps du disque"],
    ["% de tiempo de disco"],
  ],
  [
    208,
    "Avg. Disk sec/Read",
    ["Mittlere Sek./Lesevorgänge", "Durchschn. Sek./Lesevorgang"],
    ["Moyenne disque s/lecture"],
    ["Media en segundos/lectura", "Promedio de segundos de disco/lectura"],
  ],
  [
    210,
    "Avg. Disk sec/Write",
    ["Mittlere Sek./Schreibvorgänge", "Durchschn. Sek./Schreibvorgang"],
    ["Moyenne disque s/écriture"],
    ["Media en segundos/escritura", "Promedio de segundos de disco/escritura"],
  ],
  [214, "Disk Reads/sec", ["Lesevorgänge/s"], ["Lectures disque/s"], ["Lecturas de disco/s"]],
  [216, "Disk Writes/sec", ["Schreibvorgänge/s"], ["Écritures disque/s"], ["Escrituras en disco/s"]],
  [
    220,
    "Disk Read Bytes/sec",
    ["Bytes gelesen/s", "Gelesene Bytes/s"],
    ["Lectures disque, octets/s", "Octets lus/s"],
    ["Bytes de lectura de disco/s", "Bytes leídos de disco/s"],
  ],
  [
    222,
    "Disk Write Bytes/sec",
    ["Bytes geschrieben/s", "Geschriebene Bytes/s"],
    ["Écritures disque, octets/s", "Octets écrits/s"],
    ["Bytes de escritura en disco/s", "Bytes escritos en disco/s"],
  ],
  [230, "Process", ["Prozess"], ["Processus"], ["Proceso"]],
  [
    234,
    "PhysicalDisk",
    ["Physikalischer Datenträger", "Physischer Datenträger"],
    ["Disque physique"],
    ["Disco físico"],
  ],
  [236, "LogicalDisk", ["Logischer Datenträger"], ["Disque logique"], ["Disco lógico"]],
  [238, "Processor", ["Prozessor"], ["Processeur"], ["Procesador"]],
  [
    264,
    "Bytes Received/sec",
    ["Empfangene Bytes/s", "Bytes empfangen/s"],
    ["Octets reçus/s"],
    ["Bytes recibidos/s", "Total de bytes recibidos/s"],
  ],
  [388, "Bytes Total/sec", ["Gesamtanzahl Bytes/s", "Bytes gesamt/s"], ["Total des octets/s"], ["Total de bytes/s"]],
  [
    408,
    "% Free Space",
    ["Freier Speicherplatz (%)", "% Freier Speicherplatz", "Freier Speicher (%)"],
    ["% d'espace libre", "Pourcentage d'espace libre", "% espace libre"],
    ["% de espacio disponible", "% de espacio libre"],
  ],
  [
    410,
    "Free Megabytes",
    ["MB frei", "Freie Megabytes", "Freier Speicher (MB)"],
    ["Mégaoctets libres", "Mo libres"],
    ["Megabytes libres", "MB libres"],
  ],
  [
    506,
    "Bytes Sent/sec",
    ["Gesendete Bytes/s", "Bytes gesendet/s"],
    ["Octets envoyés/s"],
    ["Bytes enviados/s", "Total de bytes enviados/s"],
  ],
  [510, "Network Interface", ["Netzwerkschnittstelle"], ["Interface réseau"], ["Interfaz de red"]],
  [
    674,
    "System Up Time",
    ["Systembetriebszeit"],
    ["Temps d'activité système", "Durée de fonctionnement du système"],
    ["Tiempo de actividad del sistema", "Tiempo activo del sistema"],
  ],
  [700, "Paging File", ["Auslagerungsdatei"], ["Fichier d'échange"], ["Archivo de paginación"]],
  [702, "% Usage", ["Belegung (%)", "Auslastung (%)"], ["Pourcentage d'utilisation", "% utilisation"], ["% de uso"]],
  [
    1400,
    "Avg. Disk Queue Length",
    ["Durchschnittl. Warteschlangenlänge des Datenträgers", "Durchschnittliche Warteschlangenlänge des Datenträgers"],
    ["Longueur moyenne de file d'attente du disque", "Taille moyenne de file d'attente du disque"],
    ["Longitud media de la cola de disco", "Promedio de longitud de la cola de disco"],
  ],
  [
    1406,
    "% Committed Bytes In Use",
    ["Zugesicherte verwendete Bytes (%)", "% Zugesicherte Bytes verwendet"],
    ["Pourcentage d'octets dédiés utilisés", "% octets validés utilisés"],
    ["% de bytes confirmados en uso"],
  ],
];

const english = new Map<string, string>();
for (const [, name, ...languages] of names) for (const one of [name, ...languages.flat()]) english.set(bare(one), name);

/** The English name of a category or counter, where its own is known in some language; else itself. */
export function englishName(name: string): string {
  return english.get(bare(name)) ?? name;
}

/** How a name is told from others: without accents, case, and the kind of its blanks and apostrophes. */
function bare(name: string): string {
  return name.normalize("NFD").replace(/\p{M}/gu, "").replace(/[’']/g, "'").replace(/\s+/g, " ").trim().toLowerCase();
}

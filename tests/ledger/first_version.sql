CREATE TABLE alembic_version (
    version_num VARCHAR(32) NOT NULL,
    CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
CREATE TABLE sources (
    id INTEGER NOT NULL,
    path VARCHAR(4096) NOT NULL,
    document_id VARCHAR(64) NOT NULL,
    title VARCHAR(1000) NOT NULL,
    modified_ns INTEGER NOT NULL,
    size INTEGER NOT NULL,
    PRIMARY KEY (id),
    UNIQUE (path)
);
CREATE INDEX ix_sources_document_id ON sources (document_id);
CREATE TABLE phrases (
    id INTEGER NOT NULL,
    source_id INTEGER NOT NULL,
    phrase_id VARCHAR(64) NOT NULL,
    name VARCHAR(1000) NOT NULL,
    start_s FLOAT NOT NULL,
    end_s FLOAT NOT NULL,
    count INTEGER NOT NULL,
    tonic INTEGER NOT NULL,
    scale VARCHAR(40) NOT NULL,
    hand_fret INTEGER NOT NULL,
    notes_per_s FLOAT NOT NULL,
    degrees VARCHAR NOT NULL,
    techniques VARCHAR NOT NULL,
    functions VARCHAR NOT NULL,
    chords VARCHAR NOT NULL,
    steps BLOB NOT NULL,
    lengths BLOB NOT NULL,
    music JSON NOT NULL,
    PRIMARY KEY (id),
    FOREIGN KEY(source_id) REFERENCES sources (id) ON DELETE CASCADE
);
CREATE INDEX ix_phrases_source_id ON phrases (source_id);
CREATE INDEX ix_phrases_tonic ON phrases (tonic);
CREATE INDEX ix_phrases_scale ON phrases (scale);
INSERT INTO alembic_version VALUES ('0001');
INSERT INTO sources VALUES (1, '/solos/slow.notch', 'd1', 'Slow', 1, 2);
INSERT INTO phrases VALUES (1, 1, 'p1', 'Slow walk', 0, 1, 2, 9, 'minor', 5, 4.0, ' 1 ', '', '', 'Am', x'02', x'0000803E', '{}');

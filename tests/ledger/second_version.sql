CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0002');
CREATE TABLE lessons (
	id VARCHAR(64) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	planned_for VARCHAR(40) NOT NULL, 
	held_at VARCHAR(40) NOT NULL, 
	minutes FLOAT NOT NULL, 
	"plan" JSON NOT NULL, 
	did TEXT NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE
);
CREATE TABLE passes (
	id VARCHAR(64) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	lesson_id VARCHAR(64), 
	document_id VARCHAR(64) NOT NULL, 
	phrases VARCHAR(2000) NOT NULL, 
	pace FLOAT NOT NULL, 
	result VARCHAR(20) NOT NULL, 
	played_at VARCHAR(40) NOT NULL, 
	take_id VARCHAR(64) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE, 
	FOREIGN KEY(lesson_id) REFERENCES lessons (id) ON DELETE SET NULL
);
INSERT INTO "passes" VALUES('n0','ada',NULL,'solo','p1',0.5,'clean','2026-03-01T18:00:00','');
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
CREATE TABLE recordings (
	sha256 VARCHAR(64) NOT NULL, 
	path VARCHAR(4096) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	seconds FLOAT NOT NULL, 
	PRIMARY KEY (sha256)
);
CREATE TABLE requests (
	id VARCHAR(64) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	title VARCHAR(300) NOT NULL, 
	version VARCHAR(300) NOT NULL, 
	stretch VARCHAR(300) NOT NULL, 
	sound VARCHAR(300) NOT NULL, 
	asked_at VARCHAR(40) NOT NULL, 
	due VARCHAR(40) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	estimated_h FLOAT, 
	spent_h FLOAT NOT NULL, 
	note_count INTEGER NOT NULL, 
	done_at VARCHAR(40) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE
);
INSERT INTO "requests" VALUES('r1','ada','Slow walk','','','','2026-02-01T10:00:00','2026-03-01','',NULL,0.0,140,'');
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
CREATE TABLE students (
	id VARCHAR(64) NOT NULL, 
	name VARCHAR(200) NOT NULL, 
	guitar VARCHAR(200) NOT NULL, 
	tuning VARCHAR(200) NOT NULL, 
	string_set VARCHAR(100) NOT NULL, 
	naming VARCHAR(100) NOT NULL, 
	school VARCHAR(40) NOT NULL, 
	notes TEXT NOT NULL, 
	gone_at VARCHAR(40), 
	PRIMARY KEY (id)
);
INSERT INTO "students" VALUES('ada','Ada','solid body','','','','pairs','',NULL);
CREATE INDEX ix_sources_document_id ON sources (document_id);
CREATE INDEX ix_phrases_source_id ON phrases (source_id);
CREATE INDEX ix_phrases_tonic ON phrases (tonic);
CREATE INDEX ix_phrases_scale ON phrases (scale);
CREATE INDEX passes_by_student ON passes (student_id, document_id, played_at);

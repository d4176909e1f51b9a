CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0003');
CREATE TABLE documents (
	id VARCHAR(64) NOT NULL, 
	practice_id VARCHAR(64) NOT NULL, 
	title VARCHAR(1000) NOT NULL, 
	path VARCHAR(4096) NOT NULL, 
	note_count INTEGER NOT NULL, 
	phrases JSON NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "documents" VALUES('copy','solo','Slow walk','walk.notch',140,'[{"id": "p1", "name": "Call", "bpm": 92.0}]');
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
INSERT INTO "lessons" VALUES('l1','ada','copy','2026-03-01','',30.0,'{"steps": []}','Call at 60');
CREATE TABLE moved (
	id VARCHAR(64) NOT NULL, 
	PRIMARY KEY (id)
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
INSERT INTO "passes" VALUES('0d6746feca13','ada','l1','solo','p1 p2',0.7,'shaky','2026-03-01T18:01:00','t1');
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
	seconds FLOAT NOT NULL, size INTEGER DEFAULT '0' NOT NULL, 
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
INSERT INTO "requests" VALUES('ce556129f8a8','ada','Slow walk','live','from 1:10','neck pickup','2026-02-01','2026-03-01','copy',NULL,0.0,0,'');
CREATE TABLE sent (
	id VARCHAR(64) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	title VARCHAR(1000) NOT NULL, 
	sent_at VARCHAR(40) NOT NULL, 
	music JSON NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE
);
INSERT INTO "sent" VALUES('715c3a8bcc6f','ada','copy','Slow walk','2026-03-02','{"notes": []}');
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
	gone_at VARCHAR(40), scale_mm FLOAT DEFAULT '0' NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "students" VALUES('ada','Ada','solid body','','10 to 46','','pairs','',NULL,0.0);
CREATE TABLE takes (
	id VARCHAR(64) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	name VARCHAR(1000) NOT NULL, 
	phrases VARCHAR(2000) NOT NULL, 
	start_s FLOAT NOT NULL, 
	end_s FLOAT NOT NULL, 
	pace FLOAT NOT NULL, 
	along VARCHAR(40) NOT NULL, 
	begin_s FLOAT, 
	made_at VARCHAR(40) NOT NULL, 
	gone_at VARCHAR(40), 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE
);
INSERT INTO "takes" VALUES('t1','ada','solo','Take 1','p1 p2',0.5,2.5,0.8,'click',0.12,'2026-03-01T18:00:00',NULL);
CREATE TABLE wishes (
	id VARCHAR(130) NOT NULL, 
	student_id VARCHAR(64) NOT NULL, 
	document_id VARCHAR(64) NOT NULL, 
	wishes JSON NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(student_id) REFERENCES students (id) ON DELETE CASCADE
);
INSERT INTO "wishes" VALUES('ada solo','ada','solo','{"order": []}');
CREATE INDEX ix_sources_document_id ON sources (document_id);
CREATE INDEX ix_phrases_scale ON phrases (scale);
CREATE INDEX ix_phrases_source_id ON phrases (source_id);
CREATE INDEX ix_phrases_tonic ON phrases (tonic);
CREATE INDEX passes_by_student ON passes (student_id, document_id, played_at);
CREATE INDEX ix_documents_practice_id ON documents (practice_id);
CREATE INDEX ix_takes_student_id ON takes (student_id);

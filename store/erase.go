package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"vereda/core/academy"
	"vereda/core/say"
)

// EventsOf gives every event of one student, whole, in order.
func (s *Store) EventsOf(ctx context.Context, academyID string, students []string, each func(Event) error) error {
	in := `(?` + strings.Repeat(",?", len(students)-1) + `)`
	var where strings.Builder
	var args []any
	where.WriteString(" AND e.seq IN (")
	for i, table := range studentTables {
		if i > 0 {
			where.WriteString(" UNION ALL ")
		}
		where.WriteString("SELECT y.seq FROM " + table + " y WHERE y.academy = ? AND y.student IN " + in)
		args = append(args, academyID)
		for _, id := range students {
			args = append(args, id)
		}
	}
	where.WriteString(")")
	return s.view(ctx, func(tx *sql.Tx) error { return eachEvent(ctx, tx, academyID, where.String(), args, each) })
}

// studentTables are the events that speak of a student.
var studentTables = []string{"attendance", "student_check", "placement", "promotion", "hold", "clearance", "tally"}

// Erasure takes somebody out of everything that is kept beside their record: what happened stays as counts of somebody who has no
// name, and points to nobody. It is a part of the Batch that deletes the record, so both are done or neither. It goes by
// whole identifiers and names, in columns and in fields that name people, never by what is written in a text: "ed" is in
// many words, and Kim is not Kimura.
type Erasure struct {
	IDs    []string // the record's, and of those merged into it
	Name   string   // whole, as it stands in sentences and in the access log
	Nobody string   // what stands in the place of the identifiers from now on
	Emails []string // addresses that are theirs alone: letters to them go
}

// erasedName stands in the place of the name.
const erasedName = "somebody who was erased"

// namingKinds are the kinds of documents that name people.
var namingKinds = []string{"class session", "season", "person", "test day"}

func erase(ctx context.Context, tx *sql.Tx, academyID string, version int64, x Erasure) (err error) {
	do := func(query string, args ...any) {
		if err == nil {
			if _, err = tx.ExecContext(ctx, query, args...); err != nil {
				err = fmt.Errorf("%s: %w", query, err)
			}
		}
	}
	for _, id := range x.IDs {
		eraseEvents(do, academyID, id, x.Nobody)
		// Their record as it was, and what was done to it.
		do(`UPDATE edit SET undone = TRUE WHERE academy = ? AND id IN (SELECT p.edit FROM edit_part p WHERE p.academy = ? AND p.kind = 'person' AND p.id = ?)`, academyID, academyID, id)
		do(`DELETE FROM edit_part WHERE academy = ? AND kind = 'person' AND id = ?`, academyID, id)
		do(`UPDATE edit SET by_account = ? WHERE academy = ? AND by_account = ?`, x.Nobody, academyID, id)
		do(`DELETE FROM quiz_box WHERE academy = ? AND person = ?`, academyID, id)
		do(`UPDATE access_log l JOIN account a ON a.id = l.account SET l.who = ? WHERE l.academy = ? AND a.person = ?`, erasedName, academyID, id)
		do(`DELETE FROM account WHERE academy = ? AND person = ?`, academyID, id)
		if err == nil {
			err = eraseNaming(ctx, tx, academyID, version, id, x.Nobody)
		}
	}
	// Accounts that were deleted before are known by their name alone.
	do(`UPDATE access_log SET who = ? WHERE academy = ? AND who = ? AND account NOT IN (SELECT a.id FROM account a WHERE a.academy = ?)`, erasedName, academyID, x.Name, academyID)
	for _, what := range []string{ReadHealthNote, ExportedPerson} {
		do(`UPDATE access_log SET what = ? WHERE academy = ? AND what = ?`, what+erasedName, academyID, what+x.Name)
	}
	for _, to := range x.Emails {
		do(`DELETE FROM letter WHERE academy = ? AND recipient = ?`, academyID, to)
	}
	// What was handed over did its work: a brief that is attached may name them.
	do(`UPDATE letter SET attachment = NULL WHERE academy = ? AND state <> ? AND attachment IS NOT NULL`, academyID, LetterWaiting)
	do(`UPDATE academy SET erasures = erasures + 1 WHERE id = ?`, academyID)
	if err != nil {
		return err
	}
	return eraseSays(ctx, tx, academyID, x.Name)
}

// What the access log says of somebody, before their name.
const (
	ReadHealthNote = "Read the health note on "
	ExportedPerson = "Exported everything recorded of "
)

// eraseEvents puts nobody in the place of somebody in the log.
func eraseEvents(do func(query string, args ...any), academyID, id, nobody string) {
	// An identifier of an event that was made of theirs is another one from now on, and so is what a clearance says of the hold.
	const renamed = `CONCAT('gone-', e.seq)`
	do(`UPDATE clearance c JOIN event e ON e.academy = c.academy AND e.id = c.hold JOIN hold h ON h.academy = e.academy AND h.seq = e.seq SET c.hold = `+renamed+` WHERE c.academy = ? AND h.student = ? AND LOCATE(?, e.id) > 0`, academyID, id, id)
	for _, table := range studentTables {
		do(`UPDATE event e JOIN `+table+` x ON x.academy = e.academy AND x.seq = e.seq SET e.id = `+renamed+` WHERE e.academy = ? AND x.student = ? AND LOCATE(?, e.id) > 0`, academyID, id, id)
	}
	do(`UPDATE hold SET note = '' WHERE academy = ? AND student = ?`, academyID, id)
	do(`UPDATE tally SET words = '' WHERE academy = ? AND student = ?`, academyID, id)
	do(`UPDATE promotion SET reason = '' WHERE academy = ? AND student = ?`, academyID, id)
	do(`UPDATE clearance SET clinician = '' WHERE academy = ? AND student = ?`, academyID, id)
	for _, table := range studentTables {
		do(`UPDATE `+table+` SET student = ? WHERE academy = ? AND student = ?`, nobody, academyID, id)
	}
	do(`UPDATE student_check SET observation = JSON_SET(observation, '$.partner', ?) WHERE academy = ? AND JSON_VALUE(observation, '$.partner') = ?`, nobody, academyID, id)
	do(`UPDATE student_check SET overruled = JSON_SET(overruled, '$.by', ?) WHERE academy = ? AND JSON_VALUE(overruled, '$.by') = ?`, nobody, academyID, id)
	do(`UPDATE student_check SET coach = ? WHERE academy = ? AND coach = ?`, nobody, academyID, id)
	do(`UPDATE IGNORE class_report_makeup SET student = ? WHERE academy = ? AND student = ?`, nobody, academyID, id)
	do(`DELETE FROM class_report_makeup WHERE academy = ? AND student = ?`, academyID, id)
	do(`UPDATE forecast_asked SET student = ? WHERE academy = ? AND student = ?`, nobody, academyID, id)
	do(`UPDATE class_report SET led_by = ? WHERE academy = ? AND led_by = ?`, nobody, academyID, id)
	do(`UPDATE event SET recorded_by = ? WHERE academy = ? AND recorded_by = ?`, nobody, academyID, id)
}

// eraseNaming puts nobody in the place of somebody in the records that name people, as they are and as they were.
func eraseNaming(ctx context.Context, tx *sql.Tx, academyID string, version int64, id, nobody string) error {
	kinds := `(?` + strings.Repeat(",?", len(namingKinds)-1) + `)`
	args := []any{academyID}
	for _, k := range namingKinds {
		args = append(args, k)
	}
	type row struct {
		where         []any
		before, after []byte
	}
	var all []row
	quoted := `"` + id + `"`
	err := rowsOf(ctx, tx, `SELECT kind, id, body FROM document WHERE academy = ? AND kind IN `+kinds+` AND LOCATE(?, body) > 0`, append(args[:len(args):len(args)], quoted), func(scan func(...any) error) error {
		var kind, doc string
		var body []byte
		err := scan(&kind, &doc, &body)
		all = append(all, row{where: []any{academyID, kind, doc}, after: body})
		return err
	})
	if err != nil {
		return err
	}
	documents := len(all)
	err = rowsOf(ctx, tx, `SELECT edit, n, before_body, after_body FROM edit_part WHERE academy = ? AND kind IN `+kinds+` AND (LOCATE(?, before_body) > 0 OR LOCATE(?, after_body) > 0)`, append(args[:len(args):len(args)], quoted, quoted), func(scan func(...any) error) error {
		var edit string
		var n int
		var before, after []byte
		err := scan(&edit, &n, &before, &after)
		all = append(all, row{where: []any{academyID, edit, n}, before: before, after: after})
		return err
	})
	if err != nil {
		return err
	}
	for i, r := range all {
		some := false
		for _, body := range []*[]byte{&r.before, &r.after} {
			if len(*body) == 0 {
				continue
			}
			after, changed, err := academy.Renamed(*body, id, nobody)
			if err != nil { // nobody can read it, so nobody is named in it
				continue
			}
			*body, some = after, some || changed
		}
		switch {
		case !some:
			continue
		case i < documents:
			_, err = tx.ExecContext(ctx, `UPDATE document SET body = ?, version = ? WHERE academy = ? AND kind = ? AND id = ?`, append([]any{string(r.after), version}, r.where...)...)
		default:
			_, err = tx.ExecContext(ctx, `UPDATE edit_part SET before_body = NULLIF(?, ''), after_body = NULLIF(?, '') WHERE academy = ? AND edit = ? AND n = ?`, append([]any{string(r.before), string(r.after)}, r.where...)...)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// eraseSays takes a name out of what changes say they did, where it was filled in whole.
func eraseSays(ctx context.Context, tx *sql.Tx, academyID, name string) error {
	says := map[string]say.Sentence{}
	err := rowsOf(ctx, tx, `SELECT id, says FROM edit WHERE academy = ? AND LOCATE(?, says) > 0`, []any{academyID, name}, func(scan func(...any) error) error {
		var id string
		var had say.Sentence
		err := scan(&id, &had)
		says[id] = had
		return err
	})
	if err != nil {
		return err
	}
	for id, had := range says {
		now := say.Renamed(had, func(text string) string {
			if text == name {
				return erasedName
			}
			return text
		})
		if now == had {
			continue
		}
		if _, err := tx.ExecContext(ctx, `UPDATE edit SET says = ? WHERE academy = ? AND id = ?`, now, academyID, id); err != nil {
			return err
		}
	}
	return nil
}

// ForgetHealth empties the notes of holds that were cleared before a day.
func (s *Store) ForgetHealth(ctx context.Context, academyID, before string) error {
	_, err := s.exec(ctx, `UPDATE hold h JOIN event e ON e.academy = h.academy AND e.seq = h.seq JOIN clearance c ON c.academy = h.academy AND c.hold = e.id SET h.note = '' WHERE h.academy = ? AND c.day < ? AND h.note <> ''`, academyID, before)
	return err
}

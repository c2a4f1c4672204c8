package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
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

// Erase takes somebody out of everything that is kept beside their record, which is gone already: what happened stays as counts of
// somebody who has no name, and points to nobody. Running it again does no harm.
func (s *Store) Erase(ctx context.Context, academyID string, ids []string, name, nobody string, emails []string) error {
	tx, err := s.DB.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	do := func(query string, args ...any) {
		if err == nil {
			if _, err = tx.ExecContext(ctx, query, args...); err != nil {
				err = fmt.Errorf("%s: %w", query, err)
			}
		}
	}
	for _, id := range ids {
		do(`UPDATE hold SET note = '' WHERE academy = ? AND student = ?`, academyID, id)
		do(`UPDATE tally SET words = '' WHERE academy = ? AND student = ?`, academyID, id)
		do(`UPDATE promotion SET reason = '' WHERE academy = ? AND student = ?`, academyID, id)
		do(`UPDATE clearance SET clinician = '' WHERE academy = ? AND student = ?`, academyID, id)
		for _, table := range studentTables {
			do(`UPDATE `+table+` SET student = ? WHERE academy = ? AND student = ?`, nobody, academyID, id)
		}
		do(`UPDATE student_check SET observation = REPLACE(observation, ?, ?) WHERE academy = ? AND observation LIKE CONCAT('%', ?, '%')`, `"partner":"`+id+`"`, `"partner":"`+nobody+`"`, academyID, `"partner":"`+id+`"`)
		do(`UPDATE student_check SET overruled = REPLACE(overruled, ?, ?) WHERE academy = ? AND overruled LIKE CONCAT('%', ?, '%')`, `"by":"`+id+`"`, `"by":"`+nobody+`"`, academyID, `"by":"`+id+`"`)
		do(`UPDATE student_check SET coach = ? WHERE academy = ? AND coach = ?`, nobody, academyID, id)
		do(`UPDATE IGNORE class_report_makeup SET student = ? WHERE academy = ? AND student = ?`, nobody, academyID, id)
		do(`DELETE FROM class_report_makeup WHERE academy = ? AND student = ?`, academyID, id)
		do(`UPDATE class_report SET led_by = ? WHERE academy = ? AND led_by = ?`, nobody, academyID, id)
		do(`UPDATE event SET id = REPLACE(id, ?, ?) WHERE academy = ? AND id LIKE CONCAT('%', ?, '%')`, id, nobody, academyID, id)
		do(`UPDATE event SET recorded_by = ? WHERE academy = ? AND recorded_by = ?`, nobody, academyID, id)
		// Their record as it was, and what was done to it.
		do(`UPDATE edit SET says = 'Erased', undone = TRUE WHERE academy = ? AND id IN (SELECT p.edit FROM edit_part p WHERE p.academy = ? AND p.kind = 'person' AND p.id = ?)`, academyID, academyID, id)
		do(`UPDATE edit SET says = 'Erased', undone = TRUE WHERE academy = ? AND says LIKE CONCAT('%', ?, '%')`, academyID, name)
		do(`DELETE FROM edit_part WHERE academy = ? AND kind = 'person' AND id = ?`, academyID, id)
		do(`UPDATE edit SET by_account = ? WHERE academy = ? AND by_account = ?`, nobody, academyID, id)
		// Other records name people by their identifier, in quotes.
		quoted, none := `"`+id+`"`, `"`+nobody+`"`
		do(`UPDATE edit_part SET before_body = REPLACE(before_body, ?, ?), after_body = REPLACE(after_body, ?, ?) WHERE academy = ? AND kind IN ('class session', 'season', 'person', 'test day') AND (before_body LIKE CONCAT('%', ?, '%') OR after_body LIKE CONCAT('%', ?, '%'))`, quoted, none, quoted, none, academyID, quoted, quoted)
		do(`UPDATE document SET body = REPLACE(body, ?, ?), version = (SELECT a.revision + 1 FROM academy a WHERE a.id = document.academy) WHERE academy = ? AND kind IN ('class session', 'season', 'test day') AND body LIKE CONCAT('%', ?, '%')`, quoted, none, academyID, quoted)
		do(`DELETE FROM quiz_box WHERE academy = ? AND person = ?`, academyID, id)
		do(`UPDATE access_log l JOIN account a ON a.id = l.account SET l.who = 'somebody who was erased' WHERE l.academy = ? AND a.person = ?`, academyID, id)
		do(`DELETE FROM account WHERE academy = ? AND person = ?`, academyID, id)
	}
	do(`UPDATE access_log SET what = REPLACE(what, ?, 'somebody who was erased') WHERE academy = ?`, name, academyID)
	do(`UPDATE access_log SET who = 'somebody who was erased' WHERE academy = ? AND who = ?`, academyID, name)
	for _, to := range emails {
		do(`DELETE FROM letter WHERE academy = ? AND recipient = ?`, academyID, to)
	}
	do(`DELETE FROM letter WHERE academy = ? AND (body LIKE CONCAT('%', ?, '%') OR attachment LIKE CONCAT('%', ?, '%'))`, academyID, name, name)
	do(`UPDATE academy SET erasures = erasures + 1, revision = revision + 1 WHERE id = ?`, academyID)
	if err != nil {
		return err
	}
	return tx.Commit()
}

// ForgetHealth empties the notes of holds that were cleared before a day.
func (s *Store) ForgetHealth(ctx context.Context, academyID, before string) error {
	_, err := s.exec(ctx, `UPDATE hold h JOIN event e ON e.academy = h.academy AND e.seq = h.seq JOIN clearance c ON c.academy = h.academy AND c.hold = e.id SET h.note = '' WHERE h.academy = ? AND c.day < ? AND h.note <> ''`, academyID, before)
	return err
}

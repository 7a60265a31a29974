#include "io/project/trace_rows.h"

namespace bathmos::io {

void write_trace_rows(SQLite::Database& db, Id id, const PackedTrace& trace) {
    std::int64_t numbers = 0;
    SQLite::Statement column(db, "INSERT INTO trace_column VALUES (?, ?, ?, ?, ?)");
    for (std::size_t place = 0; place < trace.columns.size(); ++place) {
        const PackedTrace::Column& c = trace.columns[place];
        numbers += static_cast<std::int64_t>(c.numbers);
        column.bind(1, id);
        column.bind(2, static_cast<std::int64_t>(place));
        column.bind(3, c.name);
        column.bind(4, c.single ? 4 : 8);
        column.bind(5, static_cast<std::int64_t>(c.numbers));
        column.exec();
        column.reset();
    }
    SQLite::Statement put(
        db, "INSERT INTO trace_piece (trace, place, piece, numbers, data) VALUES (?, ?, ?, ?, ?)");
    for (const PackedTrace::Piece& piece : trace.pieces) {
        put.bind(1, id);
        put.bind(2, static_cast<std::int64_t>(piece.column));
        put.bind(3, static_cast<std::int64_t>(piece.piece));
        put.bind(4, static_cast<std::int64_t>(piece.numbers));
        put.bindNoCopy(5, piece.bytes.data(), static_cast<int>(piece.bytes.size()));
        put.exec();
        put.reset();
    }
    SQLite::Statement head(db, "INSERT INTO trace (id, name, kind, valve, numbers) VALUES (?, ?, ?, ?, ?)");
    head.bind(1, id);
    head.bind(2, trace.name);
    head.bind(3, trace.kind);
    head.bind(4, trace.valve);
    head.bind(5, numbers);
    head.exec();
}

PackedTrace read_trace_rows(SQLite::Database& db, Id id) {
    PackedTrace out;
    SQLite::Statement head(db, "SELECT name, kind, valve FROM trace WHERE id = ?");
    head.bind(1, id);
    if (!head.executeStep())
        return out;
    out.name = head.getColumn(0).getString();
    out.kind = head.getColumn(1).getString();
    out.valve = head.getColumn(2).getString();
    SQLite::Statement columns(db,
                              "SELECT name, width, numbers FROM trace_column WHERE trace = ? ORDER BY place");
    columns.bind(1, id);
    while (columns.executeStep())
        out.columns.push_back({columns.getColumn(0).getString(), columns.getColumn(1).getInt() == 4,
                               static_cast<std::size_t>(columns.getColumn(2).getInt64())});
    SQLite::Statement pieces(
        db, "SELECT place, piece, numbers, data FROM trace_piece WHERE trace = ? ORDER BY place, piece");
    pieces.bind(1, id);
    while (pieces.executeStep())
        out.pieces.push_back({static_cast<std::size_t>(pieces.getColumn(0).getInt64()),
                              static_cast<std::size_t>(pieces.getColumn(1).getInt64()),
                              static_cast<std::size_t>(pieces.getColumn(2).getInt64()),
                              pieces.getColumn(3).getString()});
    return out;
}

} // namespace bathmos::io

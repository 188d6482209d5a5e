using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Hosted;

namespace WarySentinel.Storage.Hosted;

/// <summary>
/// The words of pages that are served: FTS5 on SQLite, a <c>tsvector</c> on PostgreSQL. They are cut by <see cref="SearchWords"/>, so that both find the
/// same; what of it a visitor may know of is decided by whoever asks.
/// </summary>
internal static class PageIndex
{
    /// <summary>Drops what is found of a page.</summary>
    public static Task DropAsync(StoreContext db, string page, CancellationToken stop) =>
        db.Database.ExecuteSqlAsync($"DELETE FROM page_words WHERE page = {page}", stop);

    /// <summary>Stores what is found of a version, and drops what is found of those that are served no more.</summary>
    public static async Task PutAsync(
        StoreContext db, string page, int number, IReadOnlyList<PageWordsOf> words, IReadOnlyList<int> served, CancellationToken stop)
    {
        var (one, other) = (served.Count > 0 ? served[0] : number, served.Count > 1 ? served[1] : number);
        await db.Database.ExecuteSqlAsync(
            $"DELETE FROM page_words WHERE page = {page} AND (version = {number} OR (version <> {one} AND version <> {other}))", stop);
        foreach (var (piece, found, asks) in words.Select(w => (w.Piece, w.Words.ToArray(), w.If)))
        {
            await (db.Database.IsNpgsql()
                ? db.Database.ExecuteSqlAsync(
                    $"INSERT INTO page_words (page, version, piece, asks, words) VALUES ({page}, {number}, {piece}, {asks}, array_to_tsvector({found}))", stop)
                : db.Database.ExecuteSqlAsync(
                    $"INSERT INTO page_words (page, version, piece, asks, words) VALUES ({page}, {number}, {piece}, {asks}, {string.Join(' ', found)})", stop));
        }
    }

    /// <summary>The pieces in which a word stands that begins so, at most so many.</summary>
    /// <param name="db">The context.</param>
    /// <param name="word">A word as <see cref="SearchWords"/> writes it: nothing but ASCII letters and digits.</param>
    /// <param name="most">The bound.</param>
    /// <param name="stop">Cancels.</param>
    public static Task<List<PageFinding>> FindAsync(StoreContext db, string word, int most, CancellationToken stop) => (db.Database.IsNpgsql()
        ? db.Database.SqlQuery<PageFinding>(
            $"""
            SELECT page AS "Page", version AS "Version", piece AS "Piece", asks AS "If" FROM page_words
            WHERE words @@ CAST({$"'{word}':*"} AS tsquery) LIMIT {most}
            """)
        : db.Database.SqlQuery<PageFinding>(
            $"""
            SELECT page AS "Page", version AS "Version", piece AS "Piece", asks AS "If" FROM page_words
            WHERE page_words MATCH {$"\"{word}\"*"} LIMIT {most}
            """))
        .ToListAsync(stop);
}

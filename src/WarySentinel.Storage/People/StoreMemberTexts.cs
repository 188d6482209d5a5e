using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members by any part of a name or address on SQLite: by its index of trigrams (FTS5), or by a look at every text.</summary>
public sealed partial class Store
{
    /// <summary>So many that may have a part are looked at, and put in order, while one more in their order is read.</summary>
    private const int LooksPerStep = 8;

    /// <summary>So many texts in a row, in so many places, tell how dense a part stands in an order.</summary>
    private const int Stretch = 250;

    private const int Stretches = 64;

    /// <summary>So many that the index names for a letter, some of them twice, are looked up one by one sooner than everybody is looked through.</summary>
    private const int MostLookedUp = 150_000;

    /// <summary>So many trigrams of a part are asked for: they leave few that do not have it.</summary>
    private const int MostTrigrams = 24;

    /// <summary>Nothing at all is no query of FTS5; an empty text is one that finds nothing.</summary>
    private const string NoTerm = "\"\"";

    private readonly SemaphoreSlim textsAsked = new(1);

    /// <summary>The next of those who have a part, wherever they stand in the order: each is looked at.</summary>
    private async Task<IQueryable<MemberRow>> SparseTextsAsync(StoreContext db, MemberQuery asked, string part, CancellationToken stop)
    {
        if (part.EnumerateRunes().Count() >= ShortestIndexed)
        {
            var all = AllTrigramsOf(part);
            return Next([.. await InPartsAsync(db, (own, from, until) => Ids(own, InTexts(all, part, from, until, asked.IsPlain)), stop)]);
        }

        var terms = await TermsAsync(db, part, stop);
        if (terms.Sum(t => t.Members) > MostLookedUp)
        {
            return Next([.. asked.IsPlain ? await LookedThroughAsync(db, asked, part, stop)
                : await InPartsAsync(db, (own, from, until) => Ids(own, LookedAt(part, from, until)), stop)]);
        }

        // One or two letters are in the trigrams that begin with them, or where a text ends.
        var any = string.Join(" OR ", terms.Select(t => Quoted(t.Text)).DefaultIfEmpty(NoTerm));
        var found = await InPartsAsync(db, (own, from, until) => Ids(own, InTexts(any, part, from, until, asked.IsPlain)), stop);
        return Next([.. found, .. await Ids(db, AtEnd(part)).ToListAsync(stop)]);

        IQueryable<Guid> Ids(StoreContext own, FormattableString texts) =>
            MemberOrder.Next(MemberOrder.Such(own.Members.FromSql(texts), asked, time.GetUtcNow(), own), asked).Select(m => m.Id);

        IQueryable<MemberRow> Next(HashSet<Guid> ids) => MemberOrder.Next(Among(db, ids), asked);
    }

    /// <summary>
    /// Those of some texts in whom the index (FTS5) knows what is asked, and who have the part: it says in whose texts all trigrams of it stand, wherever.
    /// Of whom nothing else is asked has all that any order needs beside the text.
    /// </summary>
    private static FormattableString InTexts(string asked, string part, long from, long until, bool plain) => plain
        ? (FormattableString)$"""
            SELECT t."MemberId" AS "Id", t."Email", t."Text" AS "Search", t."CreatedAt", t."SeenAt"
            FROM member_search CROSS JOIN member_texts AS t ON t."Number" = member_search.rowid
            WHERE member_search MATCH {asked} AND member_search.rowid > {from} AND member_search.rowid <= {until} AND instr(t."Text", {part}) > 0
            """
        : $"""
            SELECT m.* FROM member_search CROSS JOIN member_texts AS t ON t."Number" = member_search.rowid CROSS JOIN members AS m ON m."Id" = t."MemberId"
            WHERE member_search MATCH {asked} AND member_search.rowid > {from} AND member_search.rowid <= {until} AND instr(t."Text", {part}) > 0
            """;

    /// <summary>The next of those who have a part that many have, by a look at every text: at where it stands in the order first.</summary>
    private async Task<List<Guid>> LookedThroughAsync(StoreContext db, MemberQuery asked, string part, CancellationToken stop)
    {
        var (glob, last) = (Glob(part), await LastTextAsync(db, stop));
        // A few here and there tell how far it is to a full page at most.
        var some = db.Members.FromSql($"""
            WITH RECURSIVE some(n) AS (SELECT 0 UNION ALL SELECT n + {Stretch} + {last} / {Stretches} FROM some WHERE n < {last})
            SELECT t."MemberId" AS "Id", t."Email", t."Text" AS "Search", t."CreatedAt", t."SeenAt"
            FROM some CROSS JOIN member_texts AS t ON t."Number" > some.n AND t."Number" <= some.n + {Stretch}
            """);
        var farthest = await FarthestAsync(Having(some), asked, stop);
        var found = await FoundAsync(farthest);
        return farthest is null || found.Count >= asked.Most ? found : await FoundAsync(null);

        Task<List<Guid>> FoundAsync(Place? farthest) => InPartsAsync(db, (own, from, until) =>
        {
            var texts = own.Members.FromSql($"""
                SELECT "MemberId" AS "Id", "Email", "Text" AS "Search", "CreatedAt", "SeenAt" FROM member_texts WHERE "Number" > {from} AND "Number" <= {until}
                """);
            return MemberOrder.Next(Having(MemberOrder.Before(texts, asked, farthest)), asked).Select(m => m.Id);
        }, stop);

        IQueryable<MemberRow> Having(IQueryable<MemberRow> all) =>
            MemberOrder.Such(all, asked, time.GetUtcNow(), db).Where(m => EF.Functions.Glob(m.Search, glob));
    }

    /// <summary>Those of some texts that have a part, by a look at every one.</summary>
    private static FormattableString LookedAt(string part, long from, long until) => $"""
        SELECT m.* FROM member_texts AS t CROSS JOIN members AS m ON m."Id" = t."MemberId"
        WHERE t."Number" > {from} AND t."Number" <= {until} AND t."Text" GLOB {Glob(part)}
        """;

    /// <summary>GLOB goes on to the next place of a letter at once, where instr looks at each sign by itself.</summary>
    private static string Glob(string part) => "*" + string.Concat(part.Select(c => c is '*' or '?' or '[' ? $"[{c}]" : c.ToString())) + "*";

    /// <summary>Those whose text ends in a part, or nearly. Texts end in few ways: each is looked up, and left for the next.</summary>
    private static FormattableString AtEnd(string part) => $"""
        WITH RECURSIVE ends(e) AS (
            SELECT min(substr("Search", -2)) FROM members
            UNION ALL SELECT (SELECT min(substr("Search", -2)) FROM members WHERE substr("Search", -2) > e) FROM ends WHERE e IS NOT NULL)
        SELECT m.* FROM ends CROSS JOIN members AS m ON substr(m."Search", -2) = ends.e WHERE instr(ends.e, {part}) > 0
        """;

    /// <summary>
    /// Asks the same of some parts of all texts at the same time, as SQLite gives a query one processor. Whoever else comes with such a question waits: it
    /// would not be answered sooner.
    /// </summary>
    private async Task<List<Guid>> InPartsAsync(StoreContext db, Func<StoreContext, long, long, IQueryable<Guid>> ask, CancellationToken stop)
    {
        var last = await LastTextAsync(db, stop);
        var parts = Math.Clamp(Environment.ProcessorCount, 2, 4);
        await textsAsked.WaitAsync(stop);
        try
        {
            var found = await Task.WhenAll(Enumerable.Range(0, parts).Select(n => Task.Run(() => PartAsync(last * n / parts, last * (n + 1) / parts), stop)));
            return [.. found.SelectMany(f => f)];
        }
        finally
        {
            textsAsked.Release();
        }

        async Task<List<Guid>> PartAsync(long from, long until)
        {
            await using var own = open();
            return await ask(own, from, until).ToListAsync(stop);
        }
    }

    private static Task<long> LastTextAsync(StoreContext db, CancellationToken stop) =>
        db.Database.SqlQuery<long>($"""SELECT COALESCE(MAX("Number"), 0) AS "Value" FROM member_texts""").SingleAsync(stop);

    /// <summary>Whether so many may have a part that a walk to the next of them is shorter than a look at each.</summary>
    private static async Task<bool> IsCommonAsync(StoreContext db, string part, int walk, CancellationToken stop)
    {
        if (db is PostgresContext)
        {
            return true;
        }

        var many = walk * LooksPerStep;
        if (part.EnumerateRunes().Count() < ShortestIndexed)
        {
            return (await TermsAsync(db, part, stop)).Sum(t => t.Members) > many;
        }

        var all = AllTrigramsOf(part);
        var count = db.Database.SqlQuery<int>($"""
            SELECT count(*) AS "Value" FROM (SELECT 1 FROM member_search WHERE member_search MATCH {all} LIMIT {many})
            """);
        return await count.SingleAsync(stop) == many;
    }

    /// <summary>The trigrams that begin with a part, and how many members have each.</summary>
    private static Task<List<Term>> TermsAsync(StoreContext db, string part, CancellationToken stop)
    {
        var end = part + "\U0010FFFF";
        return db.Database.SqlQuery<Term>($"""
            SELECT term AS "Text", doc AS "Members" FROM member_terms WHERE term >= {part} AND term < {end}
            """).ToListAsync(stop);
    }

    /// <summary>A query for texts with each three signs in a row of a part, as the tokenizer of the index counts them: by code points.</summary>
    private static string AllTrigramsOf(string part)
    {
        var signs = part.EnumerateRunes().Select(r => r.ToString()).ToArray();
        return string.Join(' ', Enumerable.Range(0, signs.Length - 2).Select(n => signs[n] + signs[n + 1] + signs[n + 2])
            .Distinct(StringComparer.Ordinal).Take(MostTrigrams).Select(Quoted));
    }

    private sealed record Term(string Text, long Members);

    /// <summary>A text in a query of FTS5 (SQLite, “Full-text query syntax”).</summary>
    private static string Quoted(string term) => '"' + term.Replace("\"", "\"\"", StringComparison.Ordinal) + '"';
}

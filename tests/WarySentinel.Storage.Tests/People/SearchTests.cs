using Npgsql;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteSearchTests() : SearchTests("sqlite");

public sealed class PostgresSearchTests() : SearchTests("postgres")
{
    [Fact]
    public async Task Names_stored_by_the_thousand_wait_beside_the_index_until_that_is_over()
    {
        await PutAsync([.. Enumerable.Range(0, 3000).Select(n => new MemberAdded(Someone($"m{n}@x.example", null, null)))]);
        (await store.MembersAsync(new MemberQuery(null, 500, "m2777@"), Stop)).ShouldHaveSingleItem();
        await store.EndOfManyMembersAsync();
        (await PagesThatWaitAsync()).ShouldBe(0);
        // One that is stored by itself does not have the list emptied by it, nor is it left to grow.
        await PutAsync(new MemberAdded(Someone("late@x.example", null, null)));
        (await PagesThatWaitAsync()).ShouldBeInRange(1, 32);
        (await store.MembersAsync(new MemberQuery(null, 500, "late@"), Stop)).ShouldHaveSingleItem();
    }

    [Fact]
    public async Task Once_the_first_thousands_are_there_the_database_plans_for_thousands()
    {
        await PutAsync([.. Enumerable.Range(0, 3000).Select(n => new MemberAdded(Someone($"m{n}@x.example", null, null)))]);
        await store.ManyMembersCameAsync();
        (await CountedAsync()).ShouldBe(3000);
    }

    /// <summary>How many members there are, as far as the planner of queries knows.</summary>
    private async Task<float> CountedAsync()
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand("SELECT reltuples FROM pg_class WHERE oid = 'members'::regclass", connection);
        return (float)(await command.ExecuteScalarAsync(Stop))!;
    }

    [Fact]
    public async Task Without_an_index_of_trigrams_the_end_of_many_is_nothing()
    {
        await SqlAsync("""DROP INDEX "IX_members_Search" """);
        await store.EndOfManyMembersAsync();
        await PutAsync(new MemberAdded(Someone("late@x.example", null, null)));
        (await store.MembersAsync(new MemberQuery(null, 500, "late@"), Stop)).ShouldHaveSingleItem();
    }

    [Fact]
    public async Task The_index_rests_and_is_built_anew_and_what_is_found_stays_the_same()
    {
        store.HasSearchToBuild.ShouldBeTrue();
        (await store.BuildSearchAsync(Stop)).ShouldBeFalse("it is there");
        const string defined =
            "SELECT string_agg(pg_get_indexdef(indexrelid), ' ' ORDER BY pg_get_indexdef(indexrelid)) FROM pg_index WHERE indrelid = 'members'::regclass";
        var made = await SayAsync(defined);
        made.ShouldContain("IX_members_Search");
        made.ShouldContain("IX_members_Signs");
        (await store.RestSearchAsync(Stop)).ShouldBeTrue();
        (await Second.RestSearchAsync(Stop)).ShouldBeFalse("it rests already");
        await PutAsync([.. Enumerable.Range(0, 300).Select(n => new MemberAdded(Someone($"m{n}@x.example", null, null)))]);
        (await store.MembersAsync(new MemberQuery(null, 500, "m277@"), Stop)).ShouldHaveSingleItem();
        // Two at once, and somebody who stores beside them.
        var building = Task.WhenAll(Built(store), Built(Second));
        await PutAsync(new MemberAdded(Someone("late@x.example", null, null)));
        await building;
        (await SayAsync(defined)).ShouldBe(made, "as the migrations made them");
        (await store.MembersAsync(new MemberQuery(null, 500, "late@"), Stop)).ShouldHaveSingleItem();

        static async Task Built(Store store)
        {
            try
            {
                await store.BuildSearchAsync(Stop);
            }
            catch (PostgresException other) when (other.SqlState is PostgresErrorCodes.DeadlockDetected or PostgresErrorCodes.UniqueViolation)
            {
                // The lease of whoever builds it keeps them apart.
            }
        }
    }

    [Fact]
    public async Task An_index_that_was_left_half_built_is_built_anew()
    {
        await SqlAsync("""UPDATE pg_index SET indisvalid = false WHERE indexrelid = '"IX_members_Search"'::regclass""");
        (await StateAsync()).ShouldBe("half");
        (await store.BuildSearchAsync(Stop)).ShouldBeTrue();
        (await StateAsync()).ShouldBe("good");
        await SqlAsync("DROP EXTENSION pg_trgm CASCADE");
        (await store.BuildSearchAsync(Stop)).ShouldBeFalse("there are no trigrams");
        (await store.RestSearchAsync(Stop)).ShouldBeTrue("there still is the one of single signs");
        (await store.BuildSearchAsync(Stop)).ShouldBeTrue("which is built without them");
        (await store.BuildSearchAsync(Stop)).ShouldBeFalse();
    }

    [Fact]
    public async Task Nobody_waits_behind_an_index_that_cannot_be_taken_away()
    {
        await using var other = new NpgsqlConnection(Connection);
        await other.OpenAsync(Stop);
        await using var begun = await other.BeginTransactionAsync(Stop);
        await using var reads = new NpgsqlCommand("SELECT count(*) FROM members", other, begun);
        await reads.ExecuteScalarAsync(Stop);
        (await store.RestSearchAsync(Stop)).ShouldBeFalse();
        (await StateAsync()).ShouldBe("good");
    }

    private Task<string> StateAsync() => SayAsync(
        """SELECT CASE WHEN indisvalid THEN 'good' ELSE 'half' END FROM pg_index WHERE indexrelid = to_regclass('"IX_members_Search"')""");

    private async Task<string> SayAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand(sql, connection);
        return (string)(await command.ExecuteScalarAsync(Stop))!;
    }

    /// <summary>How many pages of names were not in the index yet; now they are.</summary>
    private async Task<long> PagesThatWaitAsync()
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand("""SELECT gin_clean_pending_list('"IX_members_Search"'::regclass)""", connection);
        return (long)(await command.ExecuteScalarAsync(Stop))!;
    }
}

/// <summary>What the indexes find is what a look at everybody finds.</summary>
public abstract class SearchTests(string provider) : OnProvider(provider)
{
    private static readonly string[] Letters = [.. "abxq7 .-_%*[]?'\"юω王伟".Select(c => c.ToString()), "😀"];

    [Fact]
    public async Task Any_part_finds_just_those_who_have_it()
    {
        var random = new Random(7);
        string Text(int most) => string.Concat(Enumerable.Range(0, 1 + random.Next(most)).Select(_ => Letters[random.Next(Letters.Length)]));
        var all = Enumerable.Range(0, 250).Select(n => Someone($"{"abxq"[n % 4]}{n:d3}@xq.ab", null, null) with { Name = (Text(9) + "z").Trim() }).ToList();
        await PutAsync([.. all.Select(m => new MemberAdded(m))]);
        // Some get another address or name, and some leave: the index goes with them.
        for (var n = 0; n < all.Count; n += 3)
        {
            var now = n % 2 == 0 ? all[n] with { Email = $"{"xqab"[n % 4]}moved{n}@xq.ab" } : all[n] with { Name = (Text(9) + "z").Trim() };
            await PutAsync([new MemberSet(now, all[n].Version)]);
            all[n] = now;
        }

        await PutAsync([.. all.Where((_, n) => n % 7 == 1).Select(m => new MemberErased(m.Id, m.Email, "gone"))]);
        all = [.. all.Where((_, n) => n % 7 != 1)];
        var parts = Enumerable.Range(0, 150).Select(_ => Text(4).Trim()).Concat(all.Take(60).Select(m => string.Concat(m.Name.EnumerateRunes().Take(2)).Trim()))
            .Concat(["q", "x", "+", "@", "\"", "'", "\\", "{", "ю", "伟"])
            .Concat(["qz", "ab", "b", "z", "moved", "😀", "😀a", "a😀b", "伟", "王伟", "юω", "q7", ".a", "\"q", "%", "_x", "*", "[]", "xq.", "x%"])
            .Where(p => p.Length > 0).Distinct().ToList();
        await FindAsync(all, parts);
        if (await store.RestSearchAsync(Stop))
        {
            await FindAsync(all, parts);
        }
    }

    private async Task FindAsync(List<Member> all, List<string> parts)
    {
        foreach (var part in parts)
        {
            var naive = all.Where(m => m.Name.Contains(part, StringComparison.Ordinal) || m.Email.Contains(part, StringComparison.Ordinal)).Select(m => m.Email)
                .Order(StringComparer.Ordinal).ToList();
            // More are asked for than there are, so that the indexes must say.
            (await store.MembersAsync(new MemberQuery(null, 500, part), Stop)).Select(m => m.Email).ShouldBe(naive, part);
            var later = (await store.MembersAsync(new MemberQuery("b", 500, part), Stop)).Select(m => m.Email);
            later.ShouldBe(naive.Where(e => string.CompareOrdinal(e, "b") > 0), part);
        }
    }

    [Fact]
    public async Task What_only_the_two_ends_of_an_order_have_is_found_in_it_page_by_page()
    {
        var random = new Random(11);
        // So many have what they have: some of it is looked for in everybody, some of it in an index.
        string[] signs = ["q", "*", "["];
        static bool Has(int n) => n is < 3 or >= 5_500;
        var word = string.Concat(Enumerable.Range(0, Provider == "sqlite" ? 510 : 40).SelectMany(c => signs.Select(s => s + (char)('\u4e00' + c)))) + "vuw";
        var day = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero);
        var all = Enumerable.Range(0, 6_000).Select(n => Someone($"a{n:d4}{random.Next(4) switch { 0 => "\uff5e", 1 => "😀", _ => "" }}@x.ab", null, null) with
        {
            Name = Has(n) ? word : "Some One",
            CreatedAt = day.AddHours(n / 3),
            SeenAt = n < 40 ? null : day.AddHours(n / 5),
            Status = n % 5 == 0 ? MemberStatus.Active : MemberStatus.Suspended,
        }).ToList();
        // The first and the last of each half and each quarter are among those who have it: nobody falls between two parts.
        var (stored, ends) = (Enumerable.Range(0, 6_000).OrderBy(_ => random.Next()).ToList(), new List<int> { 0, 1499, 1500, 2999, 3000, 4499, 4500, 5999 });
        ends.ForEach(at => (stored[at], stored[stored.IndexOf(5_500 + at / 100)]) = (5_500 + at / 100, stored[at]));
        stored.Index().ToList().ForEach(s => all[s.Item] = all[s.Item] with { Id = new Guid(s.Index, 0, 0, new byte[8]) });
        await PutAsync([.. all.OrderBy(m => m.Id).Select(m => new MemberAdded(m.SeenAt > day.AddHours(1150) ? m with { SeenAt = null } : m))]);
        foreach (var seen in all.Where((m, n) => Has(n) && m.SeenAt is not null).OrderBy(m => m.Id))
        {
            var session = new StoredSession(Guid.NewGuid(), SessionPurpose.Site, seen.Id, null, seen.SeenAt!.Value, day, day, null, null, []);
            await store.BeginSessionAsync(session, null, Stop);
        }

        var having = all.Where((_, n) => Has(n)).OrderBy(m => m.Email, StringComparer.Ordinal).ToList();
        foreach (var (sign, sort, backwards, status) in new (string, MemberSort, bool, MemberStatus?)[]
        {
            ("q", MemberSort.Email, false, null), ("q", MemberSort.Email, true, null), ("q", MemberSort.Seen, false, null),
            ("q", MemberSort.Joined, true, MemberStatus.Suspended), ("*", MemberSort.Name, false, null), ("[", MemberSort.Joined, false, null),
            ("v", MemberSort.Name, true, null), ("v", MemberSort.Seen, true, null), ("v", MemberSort.Joined, false, MemberStatus.Suspended),
            ("vu", MemberSort.Email, true, null), ("vuw", MemberSort.Seen, false, null), ("vuw", MemberSort.Email, false, null),
            ("一", MemberSort.Joined, true, null),
        })
        {
            var such = having.Where(m => status is null || m.Status == status);
            such = sort switch
            {
                MemberSort.Joined => such.OrderBy(m => m.CreatedAt),
                MemberSort.Seen => such.OrderBy(m => m.SeenAt ?? DateTimeOffset.MinValue),
                _ => such,
            };
            var expected = such.Select(m => m.Email).ToList();
            var asked = new MemberQuery(null, 130, sign, status) { Sort = sort, Descending = backwards };
            var found = new List<string>();
            while (await store.MembersAsync(asked, Stop) is { Count: > 0 } page)
            {
                found.AddRange(page.Select(m => m.Email));
                asked = asked with { After = asked.PlaceOf(page[^1]) };
            }

            found.ShouldBe(backwards ? expected.AsEnumerable().Reverse() : expected, asked.ToString());
        }
    }

    [Fact]
    public async Task Status_and_what_is_held_narrow_it_as_a_look_at_everybody_would()
    {
        var random = new Random(11);
        var now = DateTimeOffset.UtcNow;
        Grant Given() => Held("role", "r" + random.Next(3), "order:" + random.Next(1000)) with
        {
            From = now.AddDays(random.Next(-3, 2)),
            Until = random.Next(3) == 0 ? null : now.AddDays(random.Next(-1, 3)).AddHours(1),
        };
        var all = Enumerable.Range(0, 200).Select(n => Someone($"m{n:d3}@x.example", null, null) with
        {
            Name = "Ab" + "cde"[random.Next(3)],
            Status = (MemberStatus)random.Next(6),
            Grants = [.. Enumerable.Range(0, random.Next(4)).Select(_ => Given()).DistinctBy(g => (g.Key, g.Source))],
        }).ToList();
        await PutAsync([.. all.Select(m => new MemberAdded(m))]);
        for (var n = 0; n < 120; n++)
        {
            var asked = new MemberQuery(
                random.Next(2) == 0 ? null : $"m{random.Next(200):d3}@x.example", 1 + random.Next(60),
                random.Next(3) switch { 0 => "abc", 1 => "e", _ => null },
                random.Next(2) == 0 ? null : (MemberStatus)random.Next(6), random.Next(2) == 0 ? null : (FactKind.Role, "r" + random.Next(4)));
            var naive = all.Where(m => string.CompareOrdinal(m.Email, asked.After ?? "") > 0)
                .Where(m => asked.Search is null || m.Name.Contains(asked.Search, StringComparison.OrdinalIgnoreCase) || m.Email.Contains(asked.Search))
                .Where(m => asked.Status is null || m.Status == asked.Status)
                .Where(m => asked.Holds is not var (kind, key) || m.Grants.Any(g => g.Kind == kind && g.Key == key && g.IsInForce(now)))
                .Select(m => m.Email).Order(StringComparer.Ordinal).Take(asked.Most);
            (await store.MembersAsync(asked, Stop)).Select(m => m.Email).ShouldBe(naive, asked.ToString());
        }
    }

    [Fact]
    public async Task Pages_by_dates_names_and_rules_give_everybody_once_and_in_order()
    {
        var random = new Random(13);
        var now = DateTimeOffset.UtcNow;
        DateTimeOffset Day() => now.Date.AddDays(-random.Next(6));
        var all = Enumerable.Range(0, 120).Select(n => Someone($"m{n:d3}@x.example", null, null) with
        {
            Name = "Ab" + "cdef"[random.Next(4)],
            Status = (MemberStatus)(random.Next(4) == 0 ? random.Next(6) : (int)MemberStatus.Active),
            CreatedAt = Day(),
            SeenAt = random.Next(3) == 0 ? null : Day(),
            Grants = [.. new[] { "r", "s", "t" }.Where(_ => random.Next(3) == 0).Select(r => Held("role", r))],
        }).ToList();
        await PutAsync([.. all.Select(m => new MemberAdded(m))]);
        var rules = new GroupRules(new Dictionary<string, Audience>
        {
            ["a"] = AudienceParser.Parse("role:r and not role:s").Value, ["b"] = AudienceParser.Parse("group:a or not (role:r or role:t)").Value,
            ["c"] = AudienceParser.Parse("role:s and role:t or member:m007@x.example").Value,
        });
        for (var n = 0; n < Trials.Of(40, 1500); n++)
        {
            var group = random.Next(2) == 0 ? null : "abc"[random.Next(3)].ToString();
            Span Dates() => random.Next(2) == 0 ? default : new Span(random.Next(2) == 0 ? null : Day(), random.Next(2) == 0 ? null : Day());
            var asked = new MemberQuery(
                null, 1 + random.Next(50), random.Next(3) == 0 ? "abc" : null, random.Next(3) == 0 ? (MemberStatus)random.Next(6) : null,
                group is null ? null : (FactKind.Group, group))
            {
                Rule = group is null ? null : rules.Of(group), Joined = Dates(), Seen = Dates(), NeverSeen = random.Next(8) == 0,
                Sort = (MemberSort)random.Next(4), Descending = random.Next(2) == 0,
            };
            static bool In(Span span, DateTimeOffset? at) =>
                span.IsOpen || (at is { } moment && (span.From is null || span.From <= moment) && (span.Until is null || moment < span.Until));
            var naive = all.Where(m => asked.Search is null || m.Name.Contains(asked.Search, StringComparison.OrdinalIgnoreCase))
                .Where(m => asked.Status is null || m.Status == asked.Status)
                .Where(m => asked.Rule is null || asked.Rule.Admits(m.AsVisitor(), "", now) && m.Status == MemberStatus.Active)
                .Where(m => In(asked.Joined, m.CreatedAt) && In(asked.Seen, m.SeenAt) && (!asked.NeverSeen || m.SeenAt is null));
            var sorted = asked.Sort switch
            {
                MemberSort.Name => naive.OrderBy(m => m.Name.ToLowerInvariant(), StringComparer.Ordinal),
                MemberSort.Joined => naive.OrderBy(m => m.CreatedAt),
                MemberSort.Seen => naive.OrderBy(m => m.SeenAt ?? DateTimeOffset.MinValue),
                _ => naive.OrderBy(m => m.Email, StringComparer.Ordinal),
            };
            var expected = sorted.ThenBy(m => m.Email, StringComparer.Ordinal).Select(m => m.Email).ToList();
            expected = asked.Descending ? [.. expected.AsEnumerable().Reverse()] : expected;
            var paged = new List<string>();
            for (var page = await store.MembersAsync(asked, Stop); page.Count > 0; page = await store.MembersAsync(asked, Stop))
            {
                paged.AddRange(page.Select(m => m.Email));
                asked = asked with { After = asked.PlaceOf(page[^1]) };
            }

            paged.ShouldBe(expected, asked.ToString());
        }
    }
}

using Shouldly;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteSearchTests() : SearchTests("sqlite");

public sealed class PostgresSearchTests() : SearchTests("postgres");

/// <summary>What the indexes find is what a look at everybody finds.</summary>
public abstract class SearchTests(string provider) : OnProvider(provider)
{
    private const string Letters = "abxq7 .-_%*[]?'\"юω王伟";

    [Fact]
    public async Task Any_part_finds_just_those_who_have_it()
    {
        var random = new Random(7);
        string Text(int most) => string.Concat(Enumerable.Range(0, 1 + random.Next(most)).Select(_ => Letters[random.Next(Letters.Length)]));
        var all = Enumerable.Range(0, 250).Select(n => Someone($"{"abxq"[n % 4]}{n:d3}@xq.ab", null, null) with { Name = (Text(9) + "z").Trim() }).ToList();
        await PutAsync([.. all.Select(m => new MemberAdded(m))]);
        var parts = Enumerable.Range(0, 150).Select(_ => Text(4).Trim()).Concat(all.Take(60).Select(m => m.Name[..Math.Min(2, m.Name.Length)].Trim()))
            .Concat(["qz", "ab", "b", "z", "伟", "王伟", "юω", "q7", ".a", "\"q", "%", "_x", "*", "[]", "xq.", "x%"]).Where(p => p.Length > 0).Distinct();
        foreach (var part in parts)
        {
            var naive = all.Where(m => m.Name.Contains(part, StringComparison.Ordinal) || m.Email.Contains(part, StringComparison.Ordinal)).Select(m => m.Email)
                .Order(StringComparer.Ordinal).ToList();
            // More are asked for than there are, so that the indexes must say.
            (await store.MembersAsync(new MemberQuery(null, 500, part), Stop)).Select(m => m.Email).ShouldBe(naive, part);
            (await store.MembersAsync(new MemberQuery("b", 500, part), Stop)).Select(m => m.Email).ShouldBe(naive.Where(e => string.CompareOrdinal(e, "b") > 0), part);
        }
    }
}

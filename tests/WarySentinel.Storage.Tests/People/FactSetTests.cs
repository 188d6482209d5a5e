using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteFactSetTests() : FactSetTests("sqlite");

public sealed class PostgresFactSetTests() : FactSetTests("postgres");

/// <summary>Thousands of members, gathered by what they hold.</summary>
public abstract class FactSetTests(string provider) : OnProvider(provider)
{
    private const int Many = 5_003;

    [Fact]
    public async Task Thousands_of_holders_and_thousands_who_are_not_active_are_counted_alike_however_often_and_at_once()
    {
        var members = Enumerable.Range(0, Many).Select(n => Someone($"m{n}@x.example", null, null) with
        {
            Status = n % 2 == 0 ? MemberStatus.Active : MemberStatus.Invited,
            Grants = [.. new[] { n % 5 > 0 ? "schools" : null, n % 3 == 0 ? "guides" : null, n == 1_000 ? "one" : null }.OfType<string>()
                .Select(key => Held("group", key, "import:" + n))],
        }).ToList();
        foreach (var some in members.Chunk(1_000))
        {
            await PutAsync([.. some.Select(m => new MemberAdded(m))]);
        }

        foreach (var asked in new string[][] { ["schools", "guides"], ["schools"], ["guides", "one", "nobody"], ["schools", "guides", "one"] })
        {
            var expected = members.Where(m => m.Status == MemberStatus.Active).GroupBy(m => NameOf(m.Grants, asked)).ToDictionary(g => g.Key, g => g.Count());
            var answers = await Task.WhenAll(Enumerable.Range(0, 4).Select(
                n => (n % 2 == 0 ? store : Second).FactSetsAsync([.. asked.Select(key => (FactKind.Group, key))], Stop)));
            foreach (var sets in answers)
            {
                sets.ToDictionary(s => NameOf(s.Visitor.Grants, asked), s => s.Members).ShouldBe(expected, ignoreOrder: true);
                sets.ShouldAllBe(s => s.Names!.Count == Math.Min(20, s.Members));
            }
        }
    }

    private static string NameOf(IEnumerable<Grant> grants, string[] asked) =>
        string.Join(' ', grants.Select(g => g.Key).Where(asked.Contains).Order(StringComparer.Ordinal));
}

using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class AudienceRowsTests
{
    private static readonly string[] Roles = ["a", "b", "c", "d"];

    [Theory]
    [InlineData("role:a", "role:a")]
    [InlineData("role:a and (role:b or guest)", "role:a and role:b|role:a and guest")]
    [InlineData("not (role:a or role:b)", "not role:a and not role:b")]
    [InlineData("not (role:a and not role:b)", "not role:a|role:b")]
    public void Any_expression_can_stand_in_rows(string text, string rows) =>
        string.Join('|', AudienceParser.Parse(text).Value.Rows()!.Select(r => string.Join(" and ", r))).ShouldBe(rows);

    [Property(MaxTest = 500)]
    public void Rows_admit_whom_the_expression_admits(int seed)
    {
        var audience = Make(new Random(seed), 3);
        if (audience.Rows(400) is not { } rows)
        {
            return;
        }

        var again = AudienceParser.Parse(string.Join(" or ", rows.Select(r => string.Join(" and ", r)))).Value;
        for (var facts = 0; facts < 16; facts++)
        {
            var visitor = Visitor.With([.. Roles.Where((_, n) => (facts & (1 << n)) != 0).Select(r => new Grant(FactKind.Role, r))]);
            again.Admits(visitor, "g", Now).ShouldBe(audience.Admits(visitor, "g", Now), $"{audience} {facts}");
        }
    }

    [Fact]
    public void What_would_be_too_many_rows_stays_text()
    {
        var wide = string.Join(" and ", Enumerable.Range(0, 12).Select(n => $"(role:a{n} or role:b{n})"));
        AudienceParser.Parse(wide).Value.Rows().ShouldBeNull();
    }

    private static Audience Make(Random random, int depth) => depth == 0 || random.Next(3) == 0
        ? new Audience.Fact(FactKind.Role, Roles[random.Next(4)])
        : random.Next(4) == 0 ? new Audience.Not(Make(random, depth - 1))
        : new Audience.Many(random.Next(2) == 0, [Make(random, depth - 1), Make(random, depth - 1)]);
}

using System.Text.RegularExpressions;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Catalogue;
using Xunit;

namespace WarySentinel.Core.Tests.Catalogue;

/// <summary>Patterns with stars inside, against regular expressions and against every short path there is.</summary>
public sealed class GlobTests
{
    private static readonly string[][] Paths = [.. AllPaths()];

    private static IEnumerable<string[]> AllPaths()
    {
        string[] segments = ["a", "b", "c", "aa", "ab", "ba", "bb", "ac", "abb", "bab"];
        yield return [];
        foreach (var one in segments)
        {
            yield return [one];
            foreach (var two in segments)
            {
                yield return [one, two];
                foreach (var three in segments)
                {
                    yield return [one, two, three];
                }
            }
        }
    }

    [Theory]
    [InlineData("/**/*.css", "/a.css", true)]
    [InlineData("/**/*.css", "/x/y/a.min.css", true)]
    [InlineData("/**/*.css", "/a.css/b", false)]
    [InlineData("/**/*.css", "/acss", false)]
    [InlineData("/files/[0-9]*.pdf", "/files/2026.pdf", true)]
    [InlineData("/files/[0-9]*.pdf", "/files/a.pdf", false)]
    [InlineData("/files/[!0-9]*.pdf", "/files/a.pdf", true)]
    [InlineData("/a/**/b/**", "/a/b", true)]
    [InlineData("/a/**/b/**", "/a/x/b/y", true)]
    [InlineData("/a/**/b/**", "/a/x", false)]
    [InlineData("/shop/card-*", "/shop/card-25", true)]
    [InlineData("/shop/card-*", "/shop/card-", true)]
    [InlineData("/x[[]*", "/x[1]", true)]
    [InlineData("/v[12]/**", "/v[12]/x", true)]
    [InlineData("/v[12]/**", "/v1/x", false)]
    public void Examples(string pattern, string path, bool matches)
    {
        RequestPath.TryNormalise(path, new PathRules(), out var read, out _).ShouldBeTrue();
        Address.Parse(pattern).Matches(read!, new PathRules()).ShouldBe(matches);
    }

    [Theory]
    [InlineData("/a***")]
    [InlineData("/a**")]
    [InlineData("/x[a*")]
    [InlineData("/**/")]
    [InlineData("/**/index.html")]
    [InlineData("/**/INDEX.php")]
    [InlineData("/**/**")]
    [InlineData("/**/a/**/b/**")]
    public void What_would_be_more_than_it_says_is_refused(string pattern) => Address.TryParse(pattern, out _, out _).ShouldBeFalse();

    [Theory]
    [InlineData("/**/*.css", "/a/**/*.css", true)]
    [InlineData("/**/*.css", "/a/*.css", true)]
    [InlineData("/**/*.css", "/a/x*.css", true)]
    [InlineData("/**/*.css", "/a/*", false)]
    [InlineData("/**", "/a/**/*.css", true)]
    [InlineData("/a/**", "/a/**/*.css", true)]
    [InlineData("/a/**", "/**/*.css", false)]
    [InlineData("/a/*", "/a/[x-z]*", true)]
    [InlineData("/a/[a-z]*", "/a/[x-z]*", true)]
    [InlineData("/a/[x-y]*", "/a/[x-z]*", false)]
    [InlineData("/a/[!b]*", "/a/[c-z]*", true)]
    public void One_covers_another(string mine, string theirs, bool covers)
    {
        foreach (var inDoubt in new[] { true, false })
        {
            Address.Parse(mine).Covers(Address.Parse(theirs), new PathRules(), inDoubt).ShouldBe(covers);
        }
    }

    [Property(MaxTest = 2000)]
    public void A_pattern_matches_what_a_regular_expression_does(int seed)
    {
        var random = new System.Random(seed);
        var pattern = Pattern(random);
        var regex = RegexOf(pattern);
        foreach (var path in Paths)
        {
            Glob.Matches(pattern, path).ShouldBe(regex.IsMatch(string.Concat(path.Select(s => "/" + s))),
                $"/{string.Join('/', pattern)} and /{string.Join('/', path)}");
        }
    }

    [Property(MaxTest = 1500)]
    public void A_pattern_covers_another_where_no_path_tells_them_apart(int seed)
    {
        var random = new System.Random(seed);
        var (mine, theirs) = (Pattern(random), Pattern(random));
        var other = Paths.FirstOrDefault(path => Glob.Matches(theirs, path) && !Glob.Matches(mine, path));
        var covers = Glob.Covers(mine, theirs).ShouldNotBeNull();
        if (covers)
        {
            other.ShouldBeNull($"/{string.Join('/', mine)} covers /{string.Join('/', theirs)}");
        }

        Glob.Covers(mine, mine).ShouldBe(true);
        Glob.Covers(["**"], theirs).ShouldBe(true);
    }

    [Fact]
    public void A_pattern_made_to_be_slow_is_not()
    {
        var pattern = Enumerable.Repeat("*a", 60).Append("b").Prepend("**").ToArray();
        Glob.Matches(pattern, [.. Enumerable.Repeat("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa", 200)]).ShouldBeFalse();
        Glob.Matches(["*a*a*a*a*a*a*a*a*a*b"], [new string('a', 5000)]).ShouldBeFalse();
        // Too much to work out is said to be so, in bounded time.
        _ = Glob.Covers(["*a[ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab][ab]*x"], ["*[ab]*[ab]*x"]);
    }

    private static string[] Pattern(System.Random random)
    {
        List<string> segments = [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => random.Next(7) switch
        {
            0 => "*", 1 => "a", 2 => "*b", 3 => "a*", 4 => "[ab]*", 5 => "*[!a]", _ => "ab",
        })];
        if (random.Next(2) == 0)
        {
            segments.Insert(random.Next(segments.Count), "**");
        }

        return [.. segments, .. random.Next(4) == 0 && segments[^1] != "**" ? new[] { "**" } : []];
    }

    private static Regex RegexOf(string[] pattern) => new(
        "^(?:" + string.Concat(pattern.Select((segment, at) => segment == "**" ? at == pattern.Length - 1 ? "(?:/.*)?" : "(?:/[^/]+)*"
            : segment == "*" ? "/[^/]+" : "/" + segment.Replace("[!", "[^/", StringComparison.Ordinal)
                .Replace("*", "[^/]*", StringComparison.Ordinal))) + ")$");
}

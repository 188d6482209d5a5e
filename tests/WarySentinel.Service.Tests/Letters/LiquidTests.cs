using System.Diagnostics;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Letters;
using Xunit;

namespace WarySentinel.Service.Tests.Letters;

/// <summary>Templates: what they may say, what is told of those that are wrong, and what becomes of them.</summary>
public sealed class LiquidTests
{
    private const string Nasty = "<script>alert(1)</script>\" onload='x' \r\nBcc: all@x.example";
    private static readonly LetterKind Kind = LetterKinds.Get("invitation");

    [Theory]
    [InlineData("{{ member.nme }}", "html", "1, column 4", "member.name")]
    [InlineData("Hello\n  {% if wrods %}x{% endif %}", "html", "2, column 9", "words")]
    [InlineData("{{ member.name | shout }}", "html", "1, column 18", "shout")]
    [InlineData("{% include 'other' %}", "html", "1, column 4", "include")]
    [InlineData("a\nb {% if words %}", "html", "2,", "endif")]
    [InlineData("{{ site['name'] }}", "html", "1,", "site.[]")]
    [InlineData("{% for i in (1..999999999) %}x{% endfor %}", "html", "1,", "..")]
    [InlineData("{% assign a = member.name %}{{ a }} {{ b }}", "html", "column 40", "“b”")]
    [InlineData("<p>{{ member.name }}</p>", "html", "{{ link }}", "")]
    public void What_is_wrong_is_told_with_its_line_and_column(string html, string field, string where, string what)
    {
        var fault = FaultsOf(html).ShouldHaveSingleItem();
        fault.Field.ShouldBe(field);
        fault.Message.ToString().ShouldContain(where);
        fault.Message.ToString().ShouldContain(what);
    }

    [Theory]
    [InlineData("{% for i in (1..1000) %}{% for j in (1..1000) %}{{ link }}{% endfor %}{% endfor %}")]
    [InlineData("{% assign a = link %}{% for i in (1..40) %}{% assign a = a | append: a %}{% endfor %}{{ a }}")]
    [InlineData("{% assign a = link %}{% for i in (1..12) %}{% assign a = a | append: a %}{% endfor %}{{ a | replace: 'a', a | replace: 'b', a }}")]
    [InlineData("{% capture a %}{% for i in (1..999) %}{{ link }}{% endfor %}{% endcapture %}{% for i in (1..999) %}{{ a }}{% endfor %}")]
    public void What_does_not_end_or_grows_without_end_is_refused_at_once(string html)
    {
        var watch = Stopwatch.StartNew();
        FaultsOf(html).ShouldHaveSingleItem().Message.ToString().ShouldContain("200000");
        watch.Elapsed.ShouldBeLessThan(TimeSpan.FromSeconds(20));
    }

    [Fact]
    public void No_filter_lets_markup_of_a_name_through()
    {
        var values = Kind.Variables.ToDictionary(v => v.Name, _ => (string?)Nasty);
        foreach (var filter in Liquid.Filters)
        {
            foreach (var source in new[] { "{{ member.name | FILTER: 'a', 'b' }}", "{{ member.name | FILTER }}", "{{ member.name | FILTER | FILTER }}" })
            {
                string made;
                try
                {
                    made = Liquid.Render(source.Replace("FILTER", filter, StringComparison.Ordinal), values, true);
                }
                catch (Exception refused) when (refused is Fluid.ParseException or ArgumentException or DivideByZeroException or FormatException
                    or InvalidCastException)
                {
                    continue;
                }

                made.Replace("<br>", "", StringComparison.Ordinal).ShouldNotContain('<', customMessage: $"{filter}: {made}");
                made.ShouldNotContain('"', customMessage: filter);
            }
        }
    }

    [Fact]
    public void A_template_is_taken_or_refused_and_never_throws_whatever_it_says()
    {
        var random = new Random(11);
        string[] pieces =
        [
            "{{", "}}", "{%", "%}", "if", "endif", "for", "in", "endfor", "link", "member.name", "words", "|", "append:", "'", "\"", "(1..3)", "assign", "=",
            "<p>", "raw", "endraw", "case", "when", "==", "{{ link }}", "liquid", "\n", "-", ".", "[", "]", "cycle", "increment", "comment", "unless",
                "\u0000", "é",
        ];
        for (var n = 0; n < 3000; n++)
        {
            var html = string.Join(random.Next(3) == 0 ? "" : " ", Enumerable.Range(0, random.Next(1, 14)).Select(_ => pieces[random.Next(pieces.Length)]));
            var faults = new Faults();
            LiquidCheck.Check(Kind, new LetterTemplate("invitation", "en", "S", html, null), faults);
            if (!faults.Any)
            {
                Liquid.Render(html, Kind.Variables.ToDictionary(v => v.Name, v => (string?)v.Sample), true);
            }
        }
    }

    [Fact]
    public void Every_letter_of_ours_passes_its_own_check_and_reads_well_as_text()
    {
        foreach (var kind in LetterKinds.All)
        {
            foreach (var ours in OurLetters.Languages.Select(l => OurLetters.Find(kind.Key, l)).OfType<LetterTemplate>())
            {
                var faults = new Faults();
                LiquidCheck.Check(kind, ours, faults);
                faults.Any.ShouldBeFalse(ours.Name);
                var values = kind.Variables.ToDictionary(v => v.Name, v => (string?)v.Sample);
                var html = Liquid.Render(ours.Html!, values, true);
                var text = LetterText.Of(html);
                text.ShouldNotContain("{{");
                text.ShouldNotContain("&");
                text.ShouldNotMatch("<[a-z]");
                kind.Needed.ShouldAllBe(n => text.Contains(n.Sample.Split('\n')[0], StringComparison.Ordinal));
                string[] missing = ["member.name", "by", "words", "overlap"];
                var none = kind.Variables.ToDictionary(v => v.Name, v => missing.Contains(v.Name) ? null : (string?)v.Sample);
                LetterText.Of(Liquid.Render(ours.Html!, none, true)).ShouldNotContain(" ,", customMessage: ours.Name);
            }
        }
    }

    [Fact]
    public void The_frame_carries_its_styles_on_its_elements_and_takes_nothing_from_what_is_said()
    {
        var settings = new SiteSettings { SiteName = "Ferns & <b>Light</b> {{ said }}", Look = new SiteLook { Accent = "#f0c67a" } };
        var html = LetterFrame.Dress("A {{ said }} <i>",
            "<p class=\"soft\">Hello</p><p><a class=\"button\" href=\"https://x.example/?a=1&amp;b=2\">Go</a></p>", "de",
            settings, "https://site.example");
        html.ShouldContain("lang=\"de\"");
        html.ShouldContain("prefers-color-scheme: dark");
        html.ShouldMatch("<a[^>]*class=\"button\"[^>]*style=\"[^\"]*background-color: ?#f0c67a");
        html.ShouldMatch("<p[^>]*class=\"soft\"[^>]*style=");
        html.ShouldContain("href=\"https://x.example/?a=1&amp;b=2\"");
        html.ShouldNotContain("<b>Light");
        html.Split("Hello").Length.ShouldBe(2, "what is said stands there once");
    }

    [Fact]
    public void Plain_text_keeps_quotes_lists_and_addresses() => LetterText.Of(
        "<p>Hello <b>Ada</b>,</p><blockquote>one<br>two</blockquote><ul><li>a</li><li>b &amp; c</li></ul>"
        + "<p><a href=\"https://x.example\">Go</a></p><style>p{}</style>")
        .ShouldBe("Hello Ada,\n\n> one\n> two\n\n- a\n- b & c\n\nGo:\nhttps://x.example\n");

    private static IReadOnlyList<Fault> FaultsOf(string html)
    {
        var faults = new Faults();
        LiquidCheck.Check(Kind, new LetterTemplate("invitation", "en", "Hello", html, null), faults);
        return faults.Any ? faults.ToProblem("letter-invalid").Faults : [];
    }
}

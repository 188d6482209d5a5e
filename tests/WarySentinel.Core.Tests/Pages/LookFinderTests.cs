using Shouldly;
using WarySentinel.Core.Access;
using Xunit;

namespace WarySentinel.Core.Tests.Pages;

/// <summary>The look of a site's own pages, by what its styles come to; and a look made of it that can be read.</summary>
public sealed class LookFinderTests
{
    private static readonly Uri Page = new("https://shop.example/en/");

    [Fact]
    public async Task Colours_logo_and_letters_are_those_that_a_browser_would_show()
    {
        const string html = """
            <!doctype html><html><head><link rel=stylesheet href=/a.css><link rel=stylesheet href=https://elsewhere.example/b.css><style>h1{color:#336}</style>
            <meta name=theme-color content="#123456"></head><body><header class=top><a href=/><img src="../img/logo.svg" alt=""></a></header>
            <main><h1>Hello</h1><p>Some <a href=/x>link</a></p><button>Buy</button></main></body></html>
            """;
        const string css = """
            :root{--brand:#0a6e4f;--deep:var(--ink);--ink:#101820}
            @font-face{font-family:"Meadow";src:url(fonts/meadow.woff2) format("woff2")}
            body{background:#fafafa;font-family:"Meadow",sans-serif;color:#222}
            .top{background:var(--deep)} a{color:#999} main a{color:var(--brand)} button{background:rgb(200, 40, 40)}
            """;
        LookFinder.SheetsOf(html, Page).ShouldBe([new Uri("https://shop.example/a.css")]);
        var found = await LookFinder.FindAsync(html, Page, [(new Uri("https://shop.example/a.css"), css)]);
        found.Colours.ShouldBe([new("header", "#101820"), new("page", "#fafafa"), new("button", "#c82828"), new("link", "#0a6e4f"), new("heading", "#333366"),
            new("theme", "#123456")]);
        found.Logo.ShouldBe("/img/logo.svg");
        found.Typefaces.ShouldContain("Meadow");
        found.Fonts.ShouldBe(["/fonts/meadow.woff2"]);
        var look = LookFinder.Over(found, new SiteLook());
        (look.Background, look.Accent, look.Logo, look.Type, look.Font).ShouldBe(("#101820", "#c82828", "/img/logo.svg", PageType.Site, "/fonts/meadow.woff2"));
    }

    [Fact]
    public async Task Whatever_is_found_the_look_made_of_it_can_be_read()
    {
        var random = new Random(61);
        for (var trial = 0; trial < 300; trial++)
        {
            string Colour() => $"#{random.Next(0x1000000):x6}";
            var html = $"<html><head><style>header{{background:{Colour()}}}a{{color:{Colour()}}}button{{background:{Colour()}}}"
                + $"body{{background:{Colour()}}}</style></head>"
                + "<body><header>x</header><main><a href=/>x</a><button>y</button></main></body></html>";
            var look = LookFinder.Over(await LookFinder.FindAsync(html, Page, []), new SiteLook());
            PageColours.Unreadable(look).ShouldBeEmpty(html);
        }
    }

    [Theory]
    [InlineData("")]
    [InlineData("<<<>>>")]
    [InlineData("<html><head><style>a{color:var(--a)}:root{--a:var(--b);--b:var(--a)}")]
    [InlineData("<style>@font-face{src:url(javascript:alert(1).woff2)}"
        + "@font-face{src:url(//elsewhere.example/f.woff2)}</style><header style='background:url(x)'>")]
    [InlineData("<header><img src='data:image/png;base64,AA=='></header><style>body{font-family:var(--none)}</style>")]
    public async Task What_says_nothing_or_nonsense_gives_nothing(string html)
    {
        var found = await LookFinder.FindAsync(html, Page, []);
        found.Fonts.ShouldBeEmpty();
        found.Logo.ShouldBeNull();
    }
}
